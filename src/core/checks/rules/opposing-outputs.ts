import { byOne } from '../remedies'
import { meansOf } from '../../catalog/part'
import { type Design, inOrder } from '../../model/design'
import { channelOf } from '../../publish/channelOf'
import { report, type Rule } from '../context'

/** Two ways of one motor, and nothing that forbids both at once. */
export const opposingOutputs: Rule = {
  id: 'opposing-outputs',
  severity: 'stop',
  when: 'Two outputs each work one way of a motor or a blind, and no guard forbids both at once.',
  source:
    'Both ways of a motor at once short its supply or burn its winding; the node forbids it, and a contact in the wiring should as well.',
  check: ({ design, catalog }) => {
    const ways = inOrder(design.signals).filter(({ value }) => {
      const part = design.parts[value.partId]
      const kind = catalog.parts[part?.kind ?? '']
      return (
        part &&
        kind &&
        meansOf(kind, part.settings).reverses === true &&
        channelOf(design, catalog, value)?.access === 'output'
      )
    })
    const guarded = (id: string) =>
      Object.values(design.guards).some(
        (g) =>
          g.kind === 'exclusive' && g.of.includes(id) && g.of.some((o) => o !== id && ways.some((w) => w.id === o)),
      )
    const open = ways.filter((w) => !guarded(w.id))
    if (ways.length < 2 || open.length === 0) return []
    const pair =
      open.length >= 2 ? open.slice(0, 2) : [...open, ...ways.filter((w) => w.id !== open[0]?.id).slice(0, 1)]
    return [
      report(pair.map((w) => w.id).join('+'), {
        bench: 'program',
        signalId: pair[0]?.id ?? null,
        partId: pair[0]?.value.partId ?? null,
        sentence: `${pair.map((w) => w.value.name).join(' and ')} are two ways of one motor, and nothing forbids both at once.`,
        remedies: [
          byOne('Never both at once', {
            kind: 'set-guard',
            guardId: freeGuard(design),
            guard: { kind: 'exclusive', of: pair.map((w) => w.id) },
          }),
        ],
      }),
    ]
  },
}

function freeGuard(design: Design): string {
  let n = 1
  while (`ways${n}` in design.guards) n += 1
  return `ways${n}`
}
