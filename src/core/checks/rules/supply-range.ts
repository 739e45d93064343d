import { feeding } from '../remedies'
import { type FeedRail, railSuits } from '../../power/rails'
import { volts } from '../../units/format'
import { FEED_DIODE_V } from '../../catalog/board'
import { type CheckContext, feedable, report, type Rule, signalOfPart } from '../context'

const SOURCE =
  'Data sheet of the part against both ends of what feeds it; margins within 2 % are within what supplies and meters scatter.'

/** A part that gets less or more than it takes. */
export const supplyRange: Rule = {
  id: 'supply-range',
  severity: 'fix',
  when: 'What feeds a part can fall below what it needs or rise above what it stands, or is not there at all.',
  source: SOURCE,
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        const rail = context.rails.find((r) => r.id === part.feeds[t.id])
        if (rail && t.role === 'contact' && t.does?.kind === 'senses' && t.does.pole === 'plus')
          return sensed(context, id, part.label, t.label, t.does, rail)
        if (t.role !== 'supply' || !rail || (rail.ac && t.ac !== true)) return []
        const suits = railSuits(rail, t)
        if (suits === 'well') return []
        const dead = rail.max === 0
        const high = rail.max > t.maxV
        const remedies =
          suits === 'nearly'
            ? []
            : [
                ...(high ? [] : feedBoard(context, rail.id, t)),
                ...feedable(context, id, t)
                  .filter((r) => r.id !== rail.id)
                  .slice(0, 2)
                  .map((r) => feeding(`Feed ${t.label} from ${r.name}`, { partId: id, terminal: t.id }, r.id)),
                ...ownSupply(context, id, part.label, t),
              ]
        const amiss = high ? ': too much for it' : ': too little at its lower end'
        const severity = high && !dead ? 'stop' : 'fix'
        return [
          report(`${id}.${t.id}`, {
            severity: suits === 'nearly' ? 'note' : severity,
            bench: 'parts',
            partId: id,
            signalId: signalOfPart(context.design, id),
            sentence: dead
              ? `${part.label} ${t.label} hangs on ${rail.name}, which is alive only while a USB cable is in: the board is fed from elsewhere.`
              : `${part.label} ${t.label} takes ${t.minV} to ${t.maxV} V; ${rail.name} from ${rail.source} is ${rail.min} to ${rail.max} V${suits === 'nearly' ? ', within what supplies scatter' : amiss}.`,
            steps: [
              {
                gives: high ? 'too much by' : 'too little by',
                formula: high ? 'V_rail,max − V_max' : 'V_min − V_rail,min',
                numbers: high ? `${volts(rail.max)} − ${volts(t.maxV)}` : `${volts(t.minV)} − ${volts(rail.min)}`,
                result: volts(high ? rail.max - t.maxV : t.minV - rail.min),
              },
            ],
            remedies: remedies.slice(0, 3),
          }),
        ]
      }),
    ),
}

/** An isolated input at a voltage it does not surely see, or does not stand. */
function sensed(
  { design }: CheckContext,
  id: string,
  label: string,
  terminal: string,
  { minV, maxV }: { minV: number; maxV: number },
  rail: FeedRail,
) {
  const suits = railSuits(rail, { minV, maxV })
  if (suits === 'well' || suits === 'nearly') return []
  const high = rail.max > maxV
  return [
    report(`${id}.${terminal}`, {
      severity: high ? 'stop' : 'fix',
      bench: 'wires',
      partId: id,
      signalId: signalOfPart(design, id),
      sentence: `${label} ${terminal} reads ${minV} to ${maxV} V; ${rail.name} is ${rail.min} to ${rail.max} V: ${high ? 'its lamp would burn' : 'it is not surely seen'}.`,
    }),
  ]
}

/** The board fed from a supply in place of USB behind a diode, where that lifts its rail far enough. */
function feedBoard({ board, design, catalog }: CheckContext, rail: string, t: { minV: number; maxV: number }) {
  const source = catalog.parts['supply-5v']?.terminals.find((x) => x.role === 'source')
  const drop = board.supply.behind === 'nothing' ? 0 : FEED_DIODE_V.high
  if (rail !== board.supply.rail || design.boardFeed !== null || source?.role !== 'source' || 'feed5' in design.parts)
    return []
  if (source.minV - drop < t.minV || source.maxV > Math.min(t.maxV, board.supply.maxV) * 1.02) return []
  return [
    {
      label: `Feed the board from a 5 V supply at ${board.positions.find((p) => p.kind === 'rail' && p.rail === rail)?.label ?? rail}`,
      edits: [
        { kind: 'add-part' as const, partId: 'feed5', part: 'supply-5v', label: '5 V supply', signals: [] },
        { kind: 'feed-board' as const, rail: 'feed5.out' },
      ],
    },
  ]
}

/** A 5 V supply of its own for a part of that voltage. */
function ownSupply(
  { catalog, design }: CheckContext,
  id: string,
  label: string,
  t: { id: string; minV: number; maxV: number },
) {
  const own = `own${id}`.slice(0, 24)
  const supply = catalog.parts['supply-5v']?.terminals.find((x) => x.role === 'source')
  if (
    supply?.role !== 'source' ||
    own in design.parts ||
    railSuits({ min: supply.minV, max: supply.maxV }, t) !== 'well'
  )
    return []
  return [
    {
      label: `Own 5 V supply for ${label}`,
      edits: [
        { kind: 'add-part' as const, partId: own, part: 'supply-5v', label: '5 V supply', signals: [] },
        { kind: 'feed' as const, partId: id, terminal: t.id, rail: `${own}.out` },
      ],
    },
  ]
}
