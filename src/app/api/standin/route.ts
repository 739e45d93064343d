import { z } from 'zod'
import { slugSchema } from '@/core/design/design'
import { problem } from '@/server/http/guard'
import { write } from '@/server/http/write'

const body = z.union([
  z.strictObject({ controller: z.strictObject({ entity: z.string().max(200), value: z.json() }) }),
  z.strictObject({ board: slugSchema, press: z.number().min(1).max(5000) }),
  z.strictObject({ board: slugSchema, cut: z.boolean() }),
])

/** What a person in the demo's workshop would do by hand. Refused outside the demo. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async (wish, product) => {
    const id = 'board' in wish ? product.workshop.bySlug(wish.board)?.id : undefined
    if ('board' in wish && id === undefined) return problem(404, `There is no board “${wish.board}”.`)
    const done = 'controller' in wish
      ? await product.standin('controller', wish.controller)
      : await product.standin(id ?? '', 'press' in wish ? { press: wish.press } : { cut: wish.cut })
    return done ? Response.json({}) : problem(404, 'There are no stand-ins here: this is not the demo.')
  })
}
