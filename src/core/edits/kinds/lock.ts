import { z } from 'zod'
import { pinByLabel } from '../../catalog/board'
import type { Catalog } from '../../catalog/catalog'
import { lineName, planLines } from '../../lines/lines'
import type { Design } from '../../model/design'
import { afterRounds, EDIT_ROUNDS } from '../../pins/afterRounds'
import { judgePin } from '../../pins/judgePin'
import { planPins } from '../../pins/planPins'
import { designEdit } from '../designEdit'
import { replanAround } from '../replanAround'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('lock'), line: z.string().max(100), pin: z.string().max(100) })
type Edit = z.infer<typeof schema>

/** A line keeps this pin, whatever is planned. */
export const lock = designEdit({
  schema,
  touches: ['locks', 'keptFree', 'plan'],
  apply: locked,
  words: (edit) => `lock a line to ${edit.pin}`,
})

function locked(design: Design, edit: Edit, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  const lines = planLines(design, catalog)
  const line = lines.find((l) => l.key === edit.line)
  if (!board || !line) return refuse('this line is no longer in the design', 'a line that is')
  const fits = board.positions.flatMap((p) => (p.kind === 'pin' && judgePin(board, p, line).fits ? [p.label] : []))
  const accepts = fits.join(', ') || 'no pin of this board'
  const pin = pinByLabel(board, edit.pin)
  if (!pin) return refuse(`${edit.pin} is not a pin of this board`, accepts)
  const verdict = judgePin(board, pin, line)
  if (!verdict.fits) return refuse(`${lineName(line)} cannot have ${pin.label}: ${verdict.reason}`, accepts)
  const rival = Object.entries(design.locks).find(([key, label]) => label === pin.label && key !== edit.line)
  if (rival)
    return refuse(
      `${pin.label} is locked to ${lines.flatMap((l) => (l.key === rival[0] ? [lineName(l)] : [])).join('') || 'another line'}`,
      accepts,
    )
  const { [pin.label]: _, ...keptFree } = design.keptFree
  const held = { ...design, keptFree, locks: { ...design.locks, [edit.line]: pin.label } }
  const plan = planPins(held, catalog, { past: 'kept', conflicts: 'unsaid', stop: afterRounds(EDIT_ROUNDS) })
  return plan.kind === 'planned'
    ? { ...held, plan: { ...design.plan, pins: plan.pins } }
    : replanAround(held, edit.line, pin.label)
}
