import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { heldWords } from '@/server/nodes/gate'
import { pastSchema, replacesSchema } from '@/wire/held'
import { write } from '@/host/write'

const body = z.strictObject({
  passwords: z.boolean(),
  past: pastSchema.optional(),
  replaces: replacesSchema.optional(),
  /** For the demo's board at a cable, which finds the broker where real ones do not. */
  standIn: z.boolean().optional(),
})

/** The install bundle as a zip. With passwords the node gets a new login: the one before stops working. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ passwords, past, replaces, standIn }, { bundles, gate, guest }) => {
    const { id } = await context.params
    const here = standIn === true && guest !== null
    const far = here ? null : await bundles.whyFar()
    if (far !== null) return problem(422, far)
    const held = await gate.holds(id, past, true)
    if (held) return problem(409, heldWords(held, 'bundling'), held)
    const stops = past ? await gate.wentOn(id, 'bundled', past) : []
    const made = await bundles.make(id, passwords, past && stops.length > 0 ? { by: past.by, stops } : undefined, here)
    if (!made.ok) return problem(422, made.reason)
    if (replaces) await bundles.replaced(id, replaces.by, replaces.why)
    return new Response(new Uint8Array(made.zip), {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${made.name}"`,
        'cache-control': 'no-store',
      },
    })
  })
}
