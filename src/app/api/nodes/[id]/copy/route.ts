import { z } from 'zod'
import { nameSchema } from '@/core/model/design'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/** The same node under another name, to be built once more. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  const body = z.strictObject({ name: nameSchema, author: z.string().max(60) })
  return write(request, body, async ({ name, author }, { lifecycle }) => {
    const made = await lifecycle.copy((await context.params).id, name, author)
    return 'slug' in made ? Response.json(made, { status: 201 }) : problem(422, made.reason)
  })
}
