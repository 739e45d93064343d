import type { Catalog } from '../catalog/catalog'
import type { Finding } from '../checks/finding'
import { runChecks } from '../checks/runChecks'
import type { Design } from '../model/design'
import { type ThreadRow, threadRows } from '../loom/threadRows'
import type { Surroundings } from '../surroundings/surroundings'
import { type Wiring, wiringOf } from '../wiring/netlist'

export interface Derived {
  wiring: Wiring
  findings: Finding[]
  rows: ThreadRow[]
}

/** Everything a screen shows of a design. `acknowledged` holds the keys of cautions someone has put a name to. */
export function derive(
  design: Design,
  catalog: Catalog,
  acknowledged: ReadonlySet<string> = new Set(),
  around: Surroundings | null = null,
): Derived {
  const wiring = wiringOf(design, catalog)
  const findings = runChecks(design, catalog, wiring, around).filter((f) => !(f.caution && acknowledged.has(f.key)))
  return { wiring, findings, rows: threadRows(design, catalog, wiring, findings) }
}
