import Papa from 'papaparse'
import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import { type Design, inOrder, type Signal } from '../model/design'
import { unitsFor } from '../units/convert'
import { channelOf } from './channelOf'
import { GROUP_ROLES, type Group, offeredGroups } from './groups'
import { goneAfterS } from './staleness'
import { toldBy } from './toldBy'
import { topicsOf } from './topics'

/** A node with what the sheet needs of it. */
export interface SheetNode {
  id: string
  design: Design
  /** Name of its place, or null. */
  place: string | null
}

/** One entity as a controller will hold it, or a signal that is not offered. */
export interface SheetRow {
  nodeId: string
  node: string
  nodeName: string
  /** Stays through every change of name or topic. */
  entityId: string
  signalId: string
  signal: Signal
  access: Channel['access']
  name: string
  place: string | null
  /** What it is a quantity or a kind of, in words. */
  kind: string
  unit: string
  /** Units it could be in. */
  units: string[]
  decimals: number | null
  /** What it can say; null: numbers. */
  words: string[] | null
  role: 'main' | 'diagnostic'
  offered: boolean
  group: { id: string; kind: Group['kind']; name: string; role: string } | null
  /** Without a word for this long it is gone, s. */
  goneAfterS: number
  /** It says its value at least this often, s; 0: when it changes. */
  freshS: number
  topic: string
  set: string | null
}

/** Every signal of these nodes as the controller will hold it, in the order of nodes and threads. */
export function entitySheet(nodes: readonly SheetNode[], catalog: Catalog, root: string): SheetRow[] {
  return nodes.flatMap(({ id: nodeId, design, place }) => {
    const topics = topicsOf(root, design.slug)
    const groups = offeredGroups(design)
    return inOrder(design.signals).flatMap(({ id, value: signal }): SheetRow[] => {
      const channel = channelOf(design, catalog, signal)
      if (!channel) return []
      return [
        {
          nodeId,
          node: design.slug,
          nodeName: design.name,
          entityId: `urn:uuid:${design.id}/${signal.slug}`,
          signalId: id,
          signal,
          access: channel.access,
          name: signal.name,
          place,
          kind: channel.quantity,
          unit: channel.access === 'reading' ? signal.publish.unit : '',
          units: channel.access === 'reading' ? unitsFor(channel.unit) : [],
          decimals: channel.access === 'reading' ? signal.publish.decimals : null,
          words: wordsOf(channel, signal),
          role: signal.publish.role,
          offered: signal.publish.entity,
          group: partOf(groups, id),
          goneAfterS: goneAfterS(design.network.keepAliveS),
          freshS: channel.access === 'event' ? 0 : Math.max(signal.publish.intervalS, design.sleep?.everyS ?? 0),
          topic: topics.signal(signal.slug),
          set: channel.access === 'output' ? topics.set(signal.slug) : null,
        },
      ]
    })
  })
}

function wordsOf(channel: Channel, { conditioning }: Signal): string[] | null {
  if (channel.access === 'event') return [...toldBy(channel.driver, conditioning.patterns)]
  if (channel.access === 'state') return channel.told ? [...channel.told] : [channel.words.on, channel.words.off]
  return channel.access === 'output' && channel.value === 'on-off' ? ['on', 'off'] : null
}

function partOf(groups: readonly Group[], signalId: string): SheetRow['group'] {
  for (const { id, kind, name, roles } of groups)
    for (const [role, of] of Object.entries(roles)) if (of === signalId) return { id, kind, name, role }
  return null
}

const HEAD = [
  'node',
  'place',
  'name',
  'entity',
  'kind',
  'unit',
  'decimals',
  'words',
  'role',
  'topic',
  'command',
  'gone after s',
  'every s',
]

/** The sheet to be copied by hand, a row for each entity that is offered; the first row is its head. */
export function sheetTable(rows: readonly SheetRow[]): string[][] {
  const told = rows.filter((r) => r.offered)
  return [
    HEAD,
    ...told.map((r) => [
      r.nodeName,
      r.place ?? '',
      r.name,
      r.group ? `${r.group.name} (${GROUP_ROLES[r.group.kind].name}): ${r.group.role}` : '',
      r.kind,
      r.unit,
      r.decimals === null ? '' : String(r.decimals),
      r.words?.join(' / ') ?? '',
      r.role,
      r.topic,
      r.set ?? '',
      String(r.goneAfterS),
      r.freshS === 0 ? '' : String(r.freshS),
    ]),
  ]
}

/** A table as CSV by RFC 4180. A text that a sheet would take for a formula is quoted as one. */
export const csvOfTable = (table: string[][]): string => Papa.unparse(table, { escapeFormulae: true })
