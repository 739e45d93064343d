import type { FeedRail } from '../../power/rails'
import type { PlanLine } from '../../lines/lines'
import { replacing } from '../remedies'
import { addedOn } from '../../model/design'
import { engineering } from '../../units/format'
import {
  type CheckContext,
  type Reported,
  type Rule,
  about,
  componentIdOf,
  feedOf,
  freeNames,
  report,
} from '../context'

const SOURCE =
  'A pin stands 0.3 V above the supply it has at that moment: without power that is 0.3 V. More flows through its protection into the whole board.'
const SERIES_OHM = 4700
/** Current through a pin's protection that does no harm and powers nothing, A. */
const HARMLESS_A = 0.001
/** A protection diode conducts from here, V; a driver's own resistance is at least this, Ω. */
const CLAMP_V = 0.6
const CLAMP_OHM = 25

/** A part that stays powered beside a board that is not, or the other way round. */
export const backFeed: Rule = {
  id: 'back-feed',
  severity: 'fix',
  when: 'A part with a supply of its own drives a pin, or a pin drives it: while one of them is without power the other feeds it through that line.',
  source: SOURCE,
  check: (context) => context.lines.flatMap((line) => judge(context, line) ?? []),
}

/** What drives this line high, V; null where nothing worth a thought does. */
function highV({ board }: CheckContext, { terminal }: PlanLine, own: FeedRail): number | null {
  const { output, input } = terminal
  if (terminal.board === 'drives') return (input?.maxA ?? 0) > HARMLESS_A ? null : board.supplyV.max
  if (output?.kind === 'fixed') return output.highMaxV
  return output?.kind === 'push-pull' ? own.max * output.highMaxRatio : null
}

/** The supply of its own that a part has, where its line meets a pin bare. */
function ownSupply(context: CheckContext, line: PlanLine): FeedRail | undefined {
  const { design } = context
  const { terminal, part, key } = line
  if (line.bus || line.inverted || design.plan.pins[key] === undefined || terminal.needs === 'analog') return undefined
  if (addedOn(design, key, 'optocoupler') || addedOn(design, key, 'driver')) return undefined
  return line.kind.terminals
    .flatMap((t) => (t.role === 'supply' ? (feedOf(context, part, t.id) ?? []) : []))
    .find((r) => r.partId !== null && r.id !== design.boardFeed)
}

function judge(context: CheckContext, line: PlanLine): Reported | null {
  const { design } = context
  const { terminal, part } = line
  const own = ownSupply(context, line)
  if (!own) return null
  const high = highV(context, line, own)
  if (high === null || high > 6) return null
  const old = addedOn(design, line.key, 'series')
  const ohm = Math.max((old?.value.ohm ?? 0) + (addedOn(design, line.key, 'divider')?.value.topOhm ?? 0), CLAMP_OHM)
  const flowsA = (high - CLAMP_V) / ohm
  if (flowsA <= HARMLESS_A) return null
  const feeds =
    terminal.board === 'drives' ? 'while that is off the board feeds it' : 'while the board is off it feeds it'
  return report(line.key, {
    ...about(design, line),
    sentence: `${part.label} hangs on ${own.name}: ${feeds} through ${terminal.label}, with up to ${engineering(flowsA, 'A')}.`,
    steps: [
      {
        gives: 'through the protection',
        formula: 'I = (V_high − 0.6 V) / R_s',
        numbers: `(${high.toFixed(2)} V − 0.6 V) / ${ohm} Ω`,
        result: engineering(flowsA, 'A'),
      },
    ],
    remedies: [
      replacing(
        `Add ${engineering(SERIES_OHM, 'Ω')} in series`,
        old?.id,
        old?.id ?? componentIdOf(line.key, 'series'),
        {
          type: 'series',
          line: line.key,
          names: old?.value.names ?? freeNames(design, 'R'),
          ohm: SERIES_OHM,
          tolerance: 0.05,
        },
      ),
    ],
  })
}
