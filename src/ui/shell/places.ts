import type { Finding } from '../../core/checks/finding'

/** A place of work. What is listed here is in the strip, in the finder, on the page of keys and in the tests. */
interface PlaceEntry {
  /** What brings one there, from any place beside it. */
  key: string
  name: string
  /** Below `/` for the shop, below the node for a bench. */
  path: string
  of: 'shop' | 'node'
  /** There only in the demo. */
  demo?: true
  /** Findings that are seen best there. */
  bench?: Finding['bench']
}

/** Places of the shop, then the benches of a node in the order of the work, each with its fixed key. */
export const PLACES = [
  { key: 'S', name: 'Shop', path: '/', of: 'shop' },
  { key: 'H', name: 'Shelf', path: '/shelf', of: 'shop' },
  { key: 'A', name: 'Air', path: '/air', of: 'shop' },
  { key: 'E', name: 'Entities', path: '/entities', of: 'shop' },
  { key: 'L', name: 'Ledger', path: '/ledger', of: 'shop' },
  { key: ',', name: 'Settings', path: '/settings', of: 'shop' },
  { key: 'D', name: 'Stand-ins', path: '/standins', of: 'shop', demo: true },
  { key: '0', name: 'Loom', path: '', of: 'node' },
  { key: '1', name: 'Parts', path: '/parts', of: 'node', bench: 'parts' },
  { key: '2', name: 'Pins', path: '/pins', of: 'node', bench: 'pins' },
  { key: '3', name: 'Wires', path: '/wires', of: 'node', bench: 'wires' },
  { key: '4', name: 'Power', path: '/power', of: 'node' },
  { key: '5', name: 'Program', path: '/program', of: 'node', bench: 'program' },
  { key: '6', name: 'Bring-up', path: '/bring-up', of: 'node' },
  { key: '7', name: 'Tune', path: '/tune', of: 'node', bench: 'tune' },
  { key: '8', name: 'Publish', path: '/publish', of: 'node', bench: 'publish' },
] as const satisfies readonly PlaceEntry[]

export type PlaceName = (typeof PLACES)[number]['name']

export interface Place {
  key: string
  name: PlaceName
  href: string
  /** What stands against the design there, gravest first; nothing where nothing does. */
  standing: readonly Finding[]
}

/** Places of the shop; those of the demo only in it. */
export const shopPlaces = (demo: boolean): Place[] =>
  PLACES.filter((p) => p.of === 'shop' && (demo || !('demo' in p))).map(({ key, name, path }) => ({
    key,
    name,
    href: path,
    standing: [],
  }))

/** Benches of a node, each with the findings that are seen best there. */
export const benchPlaces = (slug: string, findings: readonly Finding[] = []): Place[] =>
  PLACES.filter((p) => p.of === 'node').map((p) => ({
    key: p.key,
    name: p.name,
    href: `/node/${slug}${p.path}`,
    standing: 'bench' in p ? findings.filter((f) => f.bench === p.bench) : [],
  }))

/** The place of a node where findings of a bench are seen and seen to. */
export const benchPath = (slug: string, bench: Finding['bench']): string =>
  `/node/${slug}${PLACES.find((p) => 'bench' in p && p.bench === bench)?.path ?? ''}`

/** Where findings of a bench are seen, as people call it. */
export const benchName = (bench: Finding['bench']): string =>
  PLACES.find((p) => 'bench' in p && p.bench === bench)?.name ?? bench
