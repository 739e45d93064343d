import { z } from 'zod'
import { pinByLabel } from '../../catalog/board'
import type { Catalog } from '../../catalog/catalog'
import { planLines } from '../../lines/lines'
import type { Design } from '../../model/design'
import { wiringOf } from '../../wiring/netlist'
import { designEdit } from '../designEdit'
import { replanAround } from '../replanAround'
import { refuse, type Step } from '../step'

const schema = z.strictObject({
  kind: z.literal('made-otherwise'),
  line: z.string().max(100),
  pin: z.string().max(100),
})
type Edit = z.infer<typeof schema>

/** A wire that went to another pin than planned: recorded as it is, whatever the rules say of it, and marked as made. */
export const madeOtherwise = designEdit({
  schema,
  touches: ['locks', 'keptFree', 'plan', 'wires'],
  apply: wentTo,
  words: (edit) => `a wire was made to ${edit.pin}`,
})

function wentTo(design: Design, edit: Edit, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  if (!board || !planLines(design, catalog).some((l) => l.key === edit.line))
    return refuse('this line is no longer in the design', 'a line that is')
  if (!pinByLabel(board, edit.pin))
    return refuse(
      `${edit.pin} is not a pin of this board`,
      board.positions.flatMap((p) => (p.kind === 'pin' ? [p.label] : [])).join(', '),
    )
  const { [edit.pin]: _, ...keptFree } = design.keptFree
  const locks = Object.fromEntries(Object.entries(design.locks).filter(([, pin]) => pin !== edit.pin))
  const as = replanAround({ ...design, keptFree, locks: { ...locks, [edit.line]: edit.pin } }, edit.line, edit.pin)
  const wires = Object.fromEntries(
    wiringOf(as, catalog).wires.flatMap((w) =>
      w.line === edit.line && w.to.kind === 'pin'
        ? [
            [
              w.key,
              {
                number: nextNumber(as),
                made: true,
                insulation: 'white',
                gaugeMm2: 0.22,
                ...formerWire(design, edit.line, catalog),
              },
            ],
          ]
        : [],
    ),
  )
  return { ...as, wires: { ...as.wires, ...wires } }
}

const nextNumber = (design: Design): number => Math.max(0, ...Object.values(design.wires).map((w) => w.number)) + 1

/** Insulation and gauge of the wire that was planned to the pin; the number is a new one. */
function formerWire(
  design: Design,
  line: string,
  catalog: Catalog,
): { insulation: string; gaugeMm2: number } | undefined {
  const key = wiringOf(design, catalog).wires.find((w) => w.line === line && w.to.kind === 'pin')?.key
  const wire = key === undefined ? undefined : design.wires[key]
  return wire && { insulation: wire.insulation, gaugeMm2: wire.gaugeMm2 }
}
