import { feeding } from '../remedies'
import { switchesOf } from '../../power/switching'
import { report, type Rule } from '../context'
import { type ForeignEnd, foreignEnd } from '../foreign'
import type { Remedy } from '../finding'

/** A device with a cell of its own that gets a second supply through its contact terminals. */
export const secondFeed: Rule = {
  id: 'second-feed',
  severity: 'stop',
  when: 'A terminal of a device that has its own supply is joined to a rail, straight or through a contact.',
  source: 'A contact input carries the device’s own voltage: another supply there charges its cell or destroys it.',
  check: ({ design, catalog, rails, parts }) => {
    const isSignal = (end: string | null | undefined) => {
      const to = foreignEnd(design, catalog, end)
      return to && to.role !== 'tamper' ? to : null
    }
    const isRail = (end: string | null | undefined) => rails.find((r) => r.id === end && r.through === null)
    const say = (key: string, to: ForeignEnd, rail: string, remedy: Remedy) =>
      report(key, {
        bench: 'wires',
        partId: key.split('.')[0] ?? null,
        remedies: [remedy],
        sentence: `${to.label} ${to.name} has a supply of its own and gets ${rail} as well: a bare contact belongs there.`,
      })
    const off = (partId: string, terminal: string, label: string): Remedy =>
      feeding(`Take ${label} off`, { partId, terminal }, null)
    const straight = parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        const to = isSignal(`${id}.${t.id}`)
        const rail = isRail(part.feeds[t.id])
        return to && rail ? [say(`${id}.${t.id}`, to, rail.name, off(id, t.id, t.label))] : []
      }),
    )
    const through = switchesOf(design, catalog)
      .filter((s) => s.way === 'closes' || s.way === 'opens')
      .flatMap((s) => {
        const to = isSignal(s.at)
        const rail = isRail(s.commonAt)
        return to && rail
          ? [say(`${s.partId}.${s.terminal.id}`, to, rail.name, off(s.partId, s.terminal.id, s.terminal.label))]
          : []
      })
    return [...straight, ...through]
  },
}
