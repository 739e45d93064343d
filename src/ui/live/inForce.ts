import type { Catalog } from '../../core/catalog/catalog'
import type { Design } from '../../core/model/design'
import { compile } from '../../core/nodefile/compile'
import { canonicalJson } from '../../core/hash/canonicalJson'
import type { Surroundings } from '../../core/surroundings/surroundings'
import { DEFAULT_ROOT } from '../../core/publish/topics'

const known = new WeakMap<Design, { key: string; same: boolean }>()

/**
 * True when compiling the design under the running revision's number gives the very file the node runs. Worked out once
 * per design.
 */
export function inForce(
  design: Design,
  around: Surroundings,
  catalog: Catalog,
  broker: { host: string; port: number },
  running: { revision: number; hash: string } | null,
): boolean {
  if (!running) return false
  const key = `${running.revision} ${running.hash} ${broker.host}:${broker.port} ${canonicalJson(around)}`
  const kept = known.get(design)
  if (kept?.key === key) return kept.same
  const result = compile(
    design,
    around,
    catalog,
    { host: broker.host, port: broker.port, root: DEFAULT_ROOT },
    running.revision,
  )
  const same = result.ok && result.compiled.hash === running.hash
  known.set(design, { key, same })
  return same
}
