import { feeding } from '../remedies'
import { type FeedRail, railSuits } from '../../power/rails'
import { volts } from '../../units/format'
import { FEED_DIODE_V } from '../../catalog/board'
import { type CheckContext, type Reported, type Rule, feedable, report, signalOfPart } from '../context'

const SOURCE =
  'Data sheet of the part against both ends of what feeds it; margins within 2 % are within what supplies and meters scatter.'

/** A part that gets less or more than it takes. */
export const supplyRange: Rule = {
  id: 'supply-range',
  severity: 'fix',
  when: 'What feeds a part can fall below what it needs or rise above what it stands, or is not there at all.',
  source: SOURCE,
  check: (context) =>
    context.parts.flatMap((p) =>
      p.kind.terminals.flatMap((t) => {
        const rail = context.rails.find((r) => r.id === p.part.feeds[t.id])
        if (!rail) return []
        if (t.role === 'contact' && t.does?.kind === 'senses' && t.does.pole === 'plus')
          return sensed(context, p, t.label, t.does, rail)
        return t.role === 'supply' && (!rail.ac || t.ac === true) ? fed(context, p, t, rail) : []
      }),
    ),
}

type InParts = CheckContext['parts'][number]
type SupplyTerminal = Extract<InParts['kind']['terminals'][number], { role: 'supply' }>

function fed(context: CheckContext, { id, part }: InParts, t: SupplyTerminal, rail: FeedRail): Reported[] {
  const suits = railSuits(rail, t)
  if (suits === 'well') return []
  const high = rail.max > t.maxV
  const others = feedable(context, id, t).filter((r) => r.id !== rail.id)
  const remedies = [
    ...(high ? [] : feedBoard(context, rail.id, t)),
    ...others.slice(0, 2).map((r) => feeding(`Feed ${t.label} from ${r.name}`, { partId: id, terminal: t.id }, r.id)),
    ...ownSupply(context, id, part.label, t),
  ]
  return [
    report(`${id}.${t.id}`, {
      severity: severityOf(rail, suits, high),
      bench: 'parts',
      partId: id,
      signalId: signalOfPart(context.design, id),
      sentence: sentence(part.label, t, rail, suits, high),
      steps: [
        {
          gives: high ? 'too much by' : 'too little by',
          formula: high ? 'V_rail,max − V_max' : 'V_min − V_rail,min',
          numbers: high ? `${volts(rail.max)} − ${volts(t.maxV)}` : `${volts(t.minV)} − ${volts(rail.min)}`,
          result: volts(high ? rail.max - t.maxV : t.minV - rail.min),
        },
      ],
      remedies: suits === 'nearly' ? [] : remedies.slice(0, 3),
    }),
  ]
}

/** A rail that is alive only while a USB cable is in hurts nothing; one that is too high burns. */
function severityOf(rail: FeedRail, suits: string, high: boolean): 'stop' | 'fix' | 'note' {
  if (suits === 'nearly') return 'note'
  return high && rail.max !== 0 ? 'stop' : 'fix'
}

function sentence(label: string, t: SupplyTerminal, rail: FeedRail, suits: string, high: boolean): string {
  if (rail.max === 0)
    return `${label} ${t.label} hangs on ${rail.name}, which is alive only while a USB cable is in: the board is fed from elsewhere.`
  const beyond = high ? ': too much for it' : ': too little at its lower end'
  const amiss = suits === 'nearly' ? ', within what supplies scatter' : beyond
  return `${label} ${t.label} takes ${t.minV} to ${t.maxV} V; ${rail.name} from ${rail.source} is ${rail.min} to ${rail.max} V${amiss}.`
}

/** An isolated input at a voltage it does not surely see, or does not stand. */
function sensed(
  { design }: CheckContext,
  { id, part }: InParts,
  terminal: string,
  { minV, maxV }: { minV: number; maxV: number },
  rail: FeedRail,
): Reported[] {
  const suits = railSuits(rail, { minV, maxV })
  if (suits === 'well' || suits === 'nearly') return []
  const high = rail.max > maxV
  return [
    report(`${id}.${terminal}`, {
      severity: high ? 'stop' : 'fix',
      partId: id,
      signalId: signalOfPart(design, id),
      sentence: `${part.label} ${terminal} reads ${minV} to ${maxV} V; ${rail.name} is ${rail.min} to ${rail.max} V: ${high ? 'its lamp would burn' : 'it is not surely seen'}.`,
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
