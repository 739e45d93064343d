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

/** Supplies that are planned where the shelf has no rail for a load yet. */
const NEW_SUPPLY = {
  mains: { kind: 'mains-230', rail: 'l', label: 'Mains', words: 'the mains' },
  low: { kind: 'supply-12v', rail: 'out', label: '12 V supply', words: 'a 12 V supply' },
}

/** The load a part is meant to switch, with the two terminals it is joined by. */
function meantLoad({ design, catalog }: CheckContext, id: string) {
  const part = design.parts[id]
  const kind = catalog.parts[part?.kind ?? '']
  const meant = kind && part ? meansOf(kind, part.settings).load?.part : undefined
  const load = catalog.parts[meant ?? '']
  const supply = load?.terminals.find((t) => t.role === 'supply')
  const back = load?.terminals.find((t) => t.role === 'ground')
  if (!kind || !load || supply?.role !== 'supply' || !back) return null
  return { kind, load, supply, back, mains: load.load?.mains ?? false }
}
type MeantLoad = NonNullable<ReturnType<typeof meantLoad>>

/** How the load hangs on its contact or stage; null where this part has neither. */
function joined(id: string, loadId: string, from: string, { kind, supply, back, mains }: MeantLoad): EditBody[] | null {
  const contact = (does: string) => kind.terminals.find((t) => t.role === 'contact' && t.does?.kind === does)
  const [closes, common, sinks] = [contact('closes'), contact('common'), contact('sinks')]
  if (closes && common)
    return [
      { kind: 'feed', partId: id, terminal: common.id, rail: from },
      { kind: 'feed', partId: loadId, terminal: supply.id, rail: `${id}.${closes.id}` },
    ]
  if (!sinks || mains) return null
  return [
    { kind: 'feed', partId: loadId, terminal: supply.id, rail: from },
    { kind: 'feed', partId: loadId, terminal: back.id, rail: `${id}.${sinks.id}` },
  ]
}

/** The load as a part, joined to the contact that rests open or to the stage, and fed from a supply it stands. */
function wireIt(context: CheckContext, id: string): Remedy[] {
  const { design, catalog, rails } = context
  const meant = meantLoad(context, id)
  if (!meant) return []
  const { load, supply, mains } = meant
  const [loadId, sourceId] = [`ld${id}`.slice(0, 24), `sp${id}`.slice(0, 24)]
  const have = rails
    .filter((r) => r.partId !== null && r.through === null)
    .filter((r) => (mains ? r.ac && !r.isolated : !r.ac && r.isolated))
    .find((r) => ['well', 'nearly', 'low'].includes(railSuits(r, supply)))
  const source = mains ? NEW_SUPPLY.mains : NEW_SUPPLY.low
  if (loadId in design.parts || (!have && (sourceId in design.parts || !catalog.parts[source.kind]))) return []
  const hangs = joined(id, loadId, have?.id ?? `${sourceId}.${source.rail}`, meant)
  if (!hangs) return []
  const add = (partId: string, part: string, label: string): EditBody => ({
    kind: 'add-part',
    partId,
    part,
    label,
    signals: [],
  })
  const label = load.name.split(',')[0] ?? load.name
  return [
    {
      label: `Wire ${load.name.toLowerCase()} from ${have?.name ?? source.words}`,
      edits: [...(have ? [] : [add(sourceId, source.kind, source.label)]), add(loadId, load.id, label), ...hangs],
    },
  ]
}
