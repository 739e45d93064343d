import { z } from 'zod'
import { boardSchema } from '@/core/catalog/board'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'
import { allBoards, dropBoard, remarkBoard, seenBoard } from '@/server/db/bringUpRows'
import { guard, problem } from '@/server/http/guard'

const hardware = z.string().regex(/^[0-9a-f]{12}$/, 'twelve hexadecimal digits, as the board says them')
const body = z.union([
  z.strictObject({
    hardware,
    chip: boardSchema.shape.interpreter.unwrap().shape.chip,
    node: z.uuid().nullable(),
    image: z
      .string()
      .regex(/^[0-9a-f]{64}$/)
      .nullable(),
    imageVersion: z.string().max(20).nullable(),
    address: z.ipv4().nullable(),
  }),
  z.strictObject({ hardware, remark: z.string().trim().max(200) }),
  z.strictObject({ hardware, forget: z.literal(true) }),
])

export const dynamic = 'force-dynamic'

/** Boards by the hardware address that was read from them. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json({ boards: await allBoards((await product()).db) }))
}

/** A board was seen at a cable; a remark to one; one is forgotten. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async (said, { db, workshop }) => {
    if ('remark' in said) await remarkBoard(db, said.hardware, said.remark)
    else if ('forget' in said) await dropBoard(db, said.hardware)
    else if (said.node !== null && !workshop.get(said.node)) return problem(404, 'There is no such node.')
    else await seenBoard(db, said)
    return Response.json({})
  })
}
