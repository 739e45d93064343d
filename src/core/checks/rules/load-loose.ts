import { railSuits } from '../../power/rails'
import { switchesOf } from '../../power/switching'
import { report, type Rule } from '../context'
import type { Remedy } from '../finding'

const SOURCE =
  'The circuit a contact closes belongs to the node as well: its supply, its fuse, the contact and the way back.'

/** A load that hangs on nothing: no contact and no stage works it. */
export const loadLoose: Rule = {
  id: 'load-loose',
  severity: 'fix',
  when: 'A load is in the design and joined to nothing.',
  source: SOURCE,
  check: (context) => {
    const { design, catalog } = context
    const free = switchesOf(design, catalog).filter((s) => s.way !== 'opens' && s.loads.length === 0 && s.at === null)
    return context.parts.flatMap(({ id, part, kind }) => {
      const supply = kind.terminals.find((t) => t.role === 'supply')
      if (!kind.load || (supply ? part.feeds[supply.id] !== undefined : Object.keys(part.feeds).length > 0)) return []
      const back = kind.terminals.find((t) => t.role === 'ground')
      const remedies = free.flatMap((s): Remedy[] => {
        const rail = context.rails.find(
          (r) =>
            r.partId !== null &&
            r.through === null &&
            supply?.role === 'supply' &&
            (!r.ac || supply.ac === true) &&
            r.isolated !== (kind.load?.mains ?? false) &&
            railSuits(r, supply) === 'well',
        )
        const common = s.kind.terminals.find(
          (t) => t.role === 'contact' && t.does?.kind === 'common' && t.does.of === s.line,
        )
        if (!supply || !rail || rail.partId === s.partId) return []
        if (s.way === 'closes' && common && (s.commonAt === null || s.commonAt === rail.id)) {
          return [
            {
              label: `Behind ${s.part.label} ${s.terminal.label}, from ${rail.name}`,
              edits: [
                ...(s.commonAt === null
                  ? [{ kind: 'feed' as const, partId: s.partId, terminal: common.id, rail: rail.id }]
                  : []),
                { kind: 'feed', partId: id, terminal: supply.id, rail: `${s.partId}.${s.terminal.id}` },
              ],
            },
          ]
        }
        return s.way === 'sinks' && back && !rail.ac && rail.isolated
          ? [
              {
                label: `On ${s.part.label} ${s.terminal.label}, from ${rail.name}`,
                edits: [
                  { kind: 'feed', partId: id, terminal: supply.id, rail: rail.id },
                  { kind: 'feed', partId: id, terminal: back.id, rail: `${s.partId}.${s.terminal.id}` },
                ],
              },
            ]
          : []
      })
      return [
        report(id, {
          bench: 'parts',
          partId: id,
          sentence: `${part.label} is joined to nothing: choose the contact or the stage that works it, and the supply behind that.`,
          remedies: remedies.slice(0, 3),
        }),
      ]
    })
  },
}
