import { z } from 'zod'
import { write } from '@/host/write'
import { problem } from '@/server/http/guard'

const body = z.strictObject({
  login: z.string().min(1).max(60),
  password: z.string().max(200),
  /** Whose rights it is held to: a login of the list. */
  as: z.string().max(60),
})

/** What a login at the outside broker may beyond its rights, tried on topics that nobody has. The password is not kept. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async (wish, { controllers }) => {
    const found = await controllers.mayAlso(wish)
    return 'reason' in found ? problem(422, found.reason) : Response.json(found)
  })
}
