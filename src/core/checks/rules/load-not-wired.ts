import { meansOf } from '../../catalog/part'
import type { EditBody } from '../../edits/edit'
import { railSuits } from '../../power/rails'
import { statedLoad, switchesOf } from '../../power/switching'
import { type CheckContext, report, type Rule, signalOfPart } from '../context'
import type { Remedy } from '../finding'

const SOURCE =
  'The circuit a contact closes belongs to the node as well: its supply, its fuse, the contact and the way back.'

/** What a contact or a stage switches is said, and is not in the list of wires. */
export const loadNotWired: Rule = {
  id: 'load-not-wired',
  severity: 'note',
  when: 'A contact or a stage is said to switch something, and neither load nor supply nor fuse are in the list of wires.',
  source: SOURCE,
  check: (context) => {
    const { design, catalog } = context
    const switches = switchesOf(design, catalog)
    return context.parts.flatMap(({ id, part, kind }) => {
      const mine = switches.filter((s) => s.partId === id)
      const stated = statedLoad(kind, part)
      if (!stated || mine.length === 0 || mine.some((s) => s.loads.length > 0 || s.at !== null || s.commonAt !== null))
        return []
      return [
        report(id, {
          bench: 'wires',
          partId: id,
          signalId: signalOfPart(design, id),
          sentence: `${part.label}: what it switches is not in the list of wires yet: its supply, fuse, contact and way back.`,
          remedies: wireIt(context, id),
        }),
      ]
    })
  },
}

/** The load as a part, joined to the contact that rests open or to the stage, and fed from a supply it stands. */
function wireIt(context: CheckContext, id: string): Remedy[] {
  const { design, catalog, rails } = context
  const part = design.parts[id]
  const kind = catalog.parts[part?.kind ?? '']
  const meant = kind && part ? meansOf(kind, part.settings).load?.part : undefined
  const load = meant === undefined ? undefined : catalog.parts[meant]
  const supply = load?.terminals.find((t) => t.role === 'supply')
  const back = load?.terminals.find((t) => t.role === 'ground')
  if (!part || !kind || !load || supply?.role !== 'supply' || !back) return []
  const loadId = `ld${id}`.slice(0, 24)
  const mains = load.load?.mains ?? false
  const have = rails.find(
    (r) =>
      r.partId !== null &&
      r.through === null &&
      (mains ? r.ac && !r.isolated : !r.ac && r.isolated) &&
      ['well', 'nearly', 'low'].includes(railSuits(r, supply)),
  )
  const source = mains ? { kind: 'mains-230', rail: 'l' } : { kind: 'supply-12v', rail: 'out' }
  const sourceId = `sp${id}`.slice(0, 24)
  if (loadId in design.parts || (!have && (sourceId in design.parts || !catalog.parts[source.kind]))) return []
  const from = have?.id ?? `${sourceId}.${source.rail}`
  const edits: EditBody[] = [
    ...(have
      ? []
      : [
          {
            kind: 'add-part' as const,
            partId: sourceId,
            part: source.kind,
            label: mains ? 'Mains' : '12 V supply',
            signals: [],
          },
        ]),
    { kind: 'add-part', partId: loadId, part: load.id, label: load.name.split(',')[0] ?? load.name, signals: [] },
  ]
  const closes = kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'closes')
  const common = kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'common')
  const sinks = kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === 'sinks')
  if (closes && common)
    edits.push(
      { kind: 'feed', partId: id, terminal: common.id, rail: from },
      { kind: 'feed', partId: loadId, terminal: supply.id, rail: `${id}.${closes.id}` },
    )
  else if (sinks && !mains)
    edits.push(
      { kind: 'feed', partId: loadId, terminal: supply.id, rail: from },
      { kind: 'feed', partId: loadId, terminal: back.id, rail: `${id}.${sinks.id}` },
    )
  else return []
  return [
    { label: `Wire ${load.name.toLowerCase()} from ${have?.name ?? (mains ? 'the mains' : 'a 12 V supply')}`, edits },
  ]
}
