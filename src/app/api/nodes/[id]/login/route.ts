import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/** A new password for the node's own broker login; both count until the node has come back with the new one. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, z.strictObject({}), async (_, { credentials }) => {
    const done = await credentials.renewLogin((await context.params).id)
    return done.ok ? Response.json({}) : problem(502, `The login was not renewed: ${done.reason}.`)
  })
}
