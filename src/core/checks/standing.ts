import { chosen, meansOf, type PartKind } from '../catalog/part'
import type { Catalog } from '../catalog/catalog'
import type { Design } from '../model/design'
import type { Finding } from './finding'

/** What stands between a design and its board: a person may go on past `stops` by name, never past `barred`. */
export interface Standing {
  stops: Finding[]
  /** Cautions of mains and of what moves, heats or floods, with nobody's name to them. */
  barred: Finding[]
}

/** `acknowledged` are the keys of cautions somebody has put a name to. */
export function standingAgainst(
  design: Design,
  catalog: Catalog,
  findings: readonly Finding[],
  acknowledged: ReadonlySet<string>,
): Standing {
  const stops = findings.filter((f) => f.severity === 'stop' && !(f.caution && acknowledged.has(f.key)))
  return { stops, barred: stops.filter((f) => f.caution !== null && canHurt(design, catalog, f.partId)) }
}

/** True for a part that is, or is set to switch, something on the mains or something that moves, heats or pumps. */
function canHurt(design: Design, catalog: Catalog, partId: string | null): boolean {
  const part = design.parts[partId ?? '']
  const kind = catalog.parts[part?.kind ?? '']
  if (!part || !kind) return false
  const load = meansOf(kind, part.settings).load
  return load?.mains === true || load?.moves === true || isHurtful(kind, part.settings)
}

const isHurtful = ({ load, cautions, settings }: PartKind, set: Readonly<Record<string, string | number>>): boolean =>
  load?.mains === true ||
  load?.moves === true ||
  cautions.some(
    ({ mains, when }) =>
      mains && (when === null || settings.some((s) => s.id === when.setting && chosen(s, set)?.id === when.is)),
  )

/** Stops in a sentence each, as they are said to whoever wants to go on. */
export const stopSentences = (stops: readonly Finding[]): string[] => [...new Set(stops.map((f) => f.sentence))]
