import { z } from 'zod'
import { slugSchema } from '@/core/model/design'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({ ref: slugSchema, password: z.string().max(200) })

/** Keeps a network's password, sealed, and begins to carry it to the nodes of that network. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ ref, password }, { credentials }) => {
    const reason = await credentials.change(ref, password)
    return reason === null ? Response.json({}, { status: 201 }) : problem(422, reason)
  })
}
