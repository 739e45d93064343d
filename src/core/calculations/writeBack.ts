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
export function writeBack(design: Design, open: OpenCalculation, values: Values): EditBody[] {
  const { id, target } = open
  const value = values.value ?? 0
  if (id === 'wire')
    return (target.wires ?? []).map((wire): EditBody => ({ kind: 'set-wire', wire, set: { gaugeMm2: value } }))
  const component = componentFor(design, open, values, value)
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

interface ForLine {
  design: Design
  line: LineKey
  level: 'high' | 'low' | undefined
  given: Values
  value: number
}
type LineType = Extract<AddedComponent, { line: string }>['type']
const kept = <T extends LineType>({ design, line }: ForLine, type: T) => addedOn(design, line, type)?.value

const pull = (f: ForLine): AddedComponent => ({
  type: 'pull',
  line: f.line,
  names: kept(f, 'pull')?.names ?? freeNames(f.design, 'R'),
  level: f.level ?? 'high',
  ohm: f.value,
  tolerance: 0.05,
})

/** The component of a line that a sum gives the value of. */
const ON_LINE: Partial<Record<SumId, (f: ForLine) => AddedComponent>> = {
  divider: (f) => ({
    type: 'divider',
    line: f.line,
    names: kept(f, 'divider')?.names ?? freeNames(f.design, 'R', 'R'),
    topOhm: f.given.topOhm ?? 1800,
    bottomOhm: f.value,
    tolerance: f.given.tolerance ?? 0.01,
  }),
  series: (f) => ({
    type: 'series',
    line: f.line,
    names: kept(f, 'series')?.names ?? freeNames(f.design, 'R'),
    ohm: f.value,
    tolerance: 0.05,
  }),
  transistor: (f) => ({
    type: 'driver',
    line: f.line,
    names: kept(f, 'driver')?.names ?? freeNames(f.design, 'Q', 'R', 'R'),
    device: 'npn',
    seriesOhm: f.value,
    holdOhm: 10_000,
    tolerance: 0.05,
  }),
  pull,
  'bus-pull': pull,
  coupler: (f) => ({
    type: 'optocoupler',
    line: f.line,
    names: kept(f, 'optocoupler')?.names ?? freeNames(f.design, 'U', 'R', 'D'),
    seriesOhm: f.value,
    tolerance: 0.05,
  }),
  filter: (f) => ({
    type: 'capacitor',
    line: f.line,
    names: kept(f, 'capacitor')?.names ?? freeNames(f.design, 'C'),
    farad: f.value,
  }),
}

function componentFor(
  design: Design,
  { id, target: { line, rail, level } }: OpenCalculation,
  given: Values,
  value: number,
): AddedComponent | null {
  if (line !== undefined) return ON_LINE[id]?.({ design, line, level, given, value }) ?? null
  return id === 'fuse' && rail !== undefined ? fuseFor(design, rail, value) : null
}

function fuseFor(design: Design, rail: string, ratedA: number): AddedComponent {
  const old = Object.values(design.added).find((c) => c.type === 'fuse' && c.rail === rail)
  const names = old?.type === 'fuse' ? old.names : freeNames(design, 'F')
  return { type: 'fuse', rail, names, ratedA, slow: old?.type === 'fuse' && old.slow }
}

/** A short id for a component: the same place gives the same id. */
export function componentIdOf(place: string, type: AddedComponent['type']): string {
  return `${type.slice(0, 2)}${place.replace(/[^a-z0-9]/g, '')}`.slice(0, 24)
}
