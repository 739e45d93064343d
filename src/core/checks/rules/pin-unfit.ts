import { hazardRefusal, judgePin } from '../../pins/judgePin'
import { lineName } from '../../lines/lines'
import { strapConflict } from '../../pins/strapLevel'
import { about, type CheckContext, pinAt, report, type Reported, type Rule } from '../context'
import { afterRounds } from '../../pins/afterRounds'
import { planPins } from '../../pins/planPins'
import type { Remedy } from '../finding'
import type { PlanLine } from '../../lines/lines'

/** Rounds of the search a check may take. */
const ROUNDS = 8

/** The wire moved to where it belongs: the lock let go, and the plan that comes nearest to what is. */
function elsewhere({ design, catalog }: CheckContext, line: PlanLine): Remedy[] {
  const { [line.key]: lock, ...locks } = design.locks
  const plan = planPins({ ...design, locks }, catalog, { past: 'kept', conflicts: 'unsaid', stop: afterRounds(ROUNDS) })
  const to = plan.kind === 'planned' ? plan.pins[line.key] : undefined
  if (plan.kind !== 'planned' || to === undefined) return []
  return [
    {
      label: `Move it to ${to}`,
      edits: [
        ...(lock === undefined ? [] : [{ kind: 'unlock' as const, line: line.key }]),
        { kind: 'accept-plan', pins: plan.pins },
      ],
    },
  ]
}

function find(context: CheckContext, line: PlanLine, sentence: string, source: string): Reported[] {
  return [
    report(line.key, {
      severity: 'stop',
      bench: 'pins',
      ...about(context.design, line),
      sentence,
      source,
      remedies: elsewhere(context, line),
    }),
  ]
}

/** A wire that is on a pin which cannot do what its line needs. */
export const pinUnfit: Rule = {
  id: 'pin-unfit',
  severity: 'stop',
  when: 'A line is on a pin that cannot serve it, for instance because its wire was made otherwise than planned.',
  source: 'The board’s own profile.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const pin = pinAt(context, line)
      if (!pin || strapConflict(context.board, pin, line) || hazardRefusal(context.board, pin, line)) return []
      const verdict = judgePin(context.board, pin, line)
      return verdict.fits
        ? []
        : find(context, line, `${lineName(line)} is on ${pin.label}, and ${verdict.reason}.`, context.board.source)
    }),
}

/** A part that holds a reset strap the wrong way. */
export const strapFought: Rule = {
  id: 'strap-fought',
  severity: 'stop',
  when: 'A part in one of its states pulls a pin away from the level it must have at every start.',
  source: 'Chip data sheet, strapping pins; voltage divider of the strap’s resistance and the part’s.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const pin = pinAt(context, line)
      const conflict = pin && strapConflict(context.board, pin, line)
      return conflict
        ? find(
            context,
            line,
            `${lineName(line)} on ${pin.label}: ${conflict}. The board does not start.`,
            context.board.source,
          )
        : []
    }),
}

/** What moves, heats or pumps before the program runs. */
export const movesAtPowerUp: Rule = {
  id: 'moves-at-power-up',
  severity: 'stop',
  when: 'An output that moves, heats or pumps something is on a pin that is active, pulses or floats while the chip starts.',
  source: 'Chip data sheet: state of the pins from power-up to the program.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const pin = pinAt(context, line)
      const reason = pin && hazardRefusal(context.board, pin, line)
      return reason ? find(context, line, `${lineName(line)}: ${reason}.`, context.board.source) : []
    }),
}
