import { z } from 'zod'
import { guard, problem } from '@/server/http/guard'
import { answer, write } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** Nodes that were retired, oldest first. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json({ retired: await (await product()).lifecycle.retired() }))
}

/** Brings one back. */
export function POST(request: Request): Promise<Response> {
  const body = z.strictObject({ id: z.uuid(), author: z.string().max(60) })
  return write(request, body, async ({ id, author }, { lifecycle }) => {
    const wrong = await lifecycle.bringBack(id, author)
    return wrong === null ? Response.json({}) : problem(422, wrong)
  })
}

/** Deletes one for good; its name has to be typed. */
export function DELETE(request: Request): Promise<Response> {
  const body = z.strictObject({ id: z.uuid(), name: z.string().max(100) })
  return write(request, body, async ({ id, name }, { lifecycle }) => {
    const wrong = await lifecycle.remove(id, name)
    return wrong === null ? Response.json({}) : problem(422, wrong)
  })
}
