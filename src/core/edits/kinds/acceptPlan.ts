import { z } from 'zod'
import { pinByLabel } from '../../catalog/board'
import type { Catalog } from '../../catalog/catalog'
import { lineName, planLines } from '../../lines/lines'
import type { Design } from '../../model/design'
import { judgePin } from '../../pins/judgePin'
import { brokenTogether } from '../../pins/planPins'
import { designEdit } from '../designEdit'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('accept-plan'), pins: z.record(z.string(), z.string().max(100)) })

/** A whole plan of pins, as proposed. */
export const acceptPlan = designEdit({
  schema,
  touches: ['plan'],
  apply: (design, edit, catalog) => planAccepted(design, edit.pins, catalog),
  words: () => 'accept the plan',
})

function planAccepted(design: Design, pins: Record<string, string>, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  const taken = new Map<string, string>()
  for (const line of planLines(design, catalog)) {
    const label = pins[line.key]
    if (label === undefined) return refuse(`the plan leaves ${lineName(line)} without a pin`, 'a plan for every line')
    const pin = board && pinByLabel(board, label)
    const verdict = board && pin && judgePin(board, pin, line)
    if (!verdict?.fits)
      return refuse(
        `${lineName(line)} cannot have ${label}${verdict ? `: ${verdict.reason}` : ''}`,
        'a plan that obeys the hard rules',
      )
    if (taken.has(label))
      return refuse(`${label} is given to ${taken.get(label)} and ${lineName(line)}`, 'each pin once')
    if ((design.locks[line.key] ?? label) !== label)
      return refuse(`${lineName(line)} is locked to ${design.locks[line.key]}`, 'a plan that keeps the locks')
    if (design.keptFree[label]) return refuse(`${label} is kept free`, 'a plan without it')
    taken.set(label, lineName(line))
  }
  const broken = board && brokenTogether(board, planLines(design, catalog), pins)
  if (broken) return refuse(broken, 'a plan that obeys the hard rules')
  return { ...design, plan: { ...design.plan, pins } }
}
