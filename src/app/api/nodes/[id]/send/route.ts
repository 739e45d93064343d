import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { heldWords } from '@/server/nodes/gate'
import { pastSchema } from '@/wire/held'
import { write } from '@/host/write'

const body = z.strictObject({ again: z.int().min(1).optional(), past: pastSchema.optional() })

/**
 * Compiles the design, or takes a former revision, and sends it to the node; answers when the node has, or at once when
 * it sleeps. Past standing stops only by name.
 */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ again, past }, { revisions, gate }) => {
    const { id } = await context.params
    // A former revision says what it said then: what stands now is not about it.
    const held = again === undefined ? await gate.holds(id, past) : null
    if (held) return problem(409, heldWords(held, 'sending'), held)
    const outcome = again === undefined ? await revisions.send(id) : await revisions.sendAgain(id, again)
    if (!outcome) return problem(404, again === undefined ? 'There is no such node.' : 'This revision is not kept.')
    switch (outcome.kind) {
      case 'running':
      case 'waits':
        if (past) await gate.wentOn(id, `revision ${outcome.revision} sent`, past)
        return Response.json(outcome)
      case 'incomplete':
        return problem(422, `The file cannot be written yet: ${outcome.reasons.join('; ')}.`)
      case 'failed':
        return problem(502, `Revision ${outcome.revision} does not run: ${outcome.reason}.`)
    }
  })
}
