import { addedOn, type AddedComponent, type Design, type LineKey, placeOf } from '../model/design'
import type { EditBody } from '../edits/edit'
import { freeNames } from '../wiring/componentNames'
import type { SumId } from './calculations'
import type { Values } from './calculation'

/** Where a chosen value goes. */
export interface SumTarget {
  line?: LineKey
  rail?: string
  wires?: readonly string[]
  level?: 'high' | 'low'
}

/** A sum opened from the design: which, with what, and where its value goes. */
export interface OpenCalculation {
  id: SumId
  given: Values
  target: SumTarget
}

/**
 * The edits that put a value into the design: what stood there of the same type makes room, and keeps its name. Empty
 * where the sum writes nothing.
 */
export function writeBack(design: Design, { id, target }: OpenCalculation, values: Values): EditBody[] {
  const value = values.value ?? 0
  if (id === 'wire')
    return (target.wires ?? []).map((wire): EditBody => ({ kind: 'set-wire', wire, set: { gaugeMm2: value } }))
  const component = componentFor(design, id, target, values, value)
  if (!component) return []
  const old = Object.entries(design.added).find(
    ([, c]) => c.type === component.type && placeOf(c) === placeOf(component),
  )
  const componentId = old?.[0] ?? componentIdOf(placeOf(component), component.type)
  return [
    ...(old ? [{ kind: 'remove-component' as const, componentId: old[0] }] : []),
    { kind: 'add-component', componentId, component },
  ]
}

function componentFor(
  design: Design,
  id: SumId,
  { line, rail, level }: SumTarget,
  v: Values,
  value: number,
): AddedComponent | null {
  const kept = <T extends Extract<AddedComponent, { line: string }>['type']>(type: T) =>
    line === undefined ? undefined : addedOn(design, line, type)?.value
  switch (id) {
    case 'divider':
      return line === undefined
        ? null
        : {
            type: 'divider',
            line,
            names: kept('divider')?.names ?? freeNames(design, 'R', 'R'),
            topOhm: v.topOhm ?? 1800,
            bottomOhm: value,
            tolerance: v.tolerance ?? 0.01,
          }
    case 'series':
      return line === undefined
        ? null
        : { type: 'series', line, names: kept('series')?.names ?? freeNames(design, 'R'), ohm: value, tolerance: 0.05 }
    case 'transistor':
      return line === undefined
        ? null
        : {
            type: 'driver',
            line,
            names: kept('driver')?.names ?? freeNames(design, 'Q', 'R', 'R'),
            device: 'npn',
            seriesOhm: value,
            holdOhm: 10_000,
            tolerance: 0.05,
          }
    case 'pull':
    case 'bus-pull':
      return line === undefined
        ? null
        : {
            type: 'pull',
            line,
            names: kept('pull')?.names ?? freeNames(design, 'R'),
            level: level ?? 'high',
            ohm: value,
            tolerance: 0.05,
          }
    case 'coupler':
      return line === undefined
        ? null
        : {
            type: 'optocoupler',
            line,
            names: kept('optocoupler')?.names ?? freeNames(design, 'U', 'R', 'D'),
            seriesOhm: value,
            tolerance: 0.05,
          }
    case 'filter':
      return line === undefined
        ? null
        : { type: 'capacitor', line, names: kept('capacitor')?.names ?? freeNames(design, 'C'), farad: value }
    case 'fuse':
      return rail === undefined
        ? null
        : {
            type: 'fuse',
            rail,
            names:
              (Object.values(design.added).find((c) => c.type === 'fuse' && c.rail === rail)?.names as
                [string] | undefined) ?? freeNames(design, 'F'),
            ratedA: value,
            slow: Object.values(design.added).some((c) => c.type === 'fuse' && c.rail === rail && c.slow),
          }
    default:
      return null
  }
}

/** A short id for a component: the same place gives the same id. */
export function componentIdOf(place: string, type: AddedComponent['type']): string {
  return `${type.slice(0, 2)}${place.replace(/[^a-z0-9]/g, '')}`.slice(0, 24)
}
