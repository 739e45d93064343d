import { z } from 'zod'
import { clearCopy, copiesIn } from '@/server/files/dataFolder'
import { guard, problem } from '@/server/http/guard'
import { answer, read } from '@/host/write'
import { product } from '@/host/instance'

/** A backup or restore is over by then. */
const IN_USE_MS = 3_600_000

export const dynamic = 'force-dynamic'

/** Databases kept beside the one in use, and what interrupted restores have left. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json({ copies: copiesIn((await product()).options.dataFolder) }))
}

/** Clears one of them, for good. */
export function DELETE(request: Request): Promise<Response> {
  return read(request, guard, z.strictObject({ name: z.string().max(100) }), async ({ name }) => {
    const { dataFolder } = (await product()).options
    const left = copiesIn(dataFolder).find((c) => c.name === name && c.kind === 'leftover')
    if (left && Date.now() - Date.parse(left.at) < IN_USE_MS)
      return problem(
        409,
        `${name} is less than an hour old and may be in use now: a backup or restore is under way, or was cut off just now.`,
      )
    const wrong = clearCopy(dataFolder, name)
    return wrong ? problem(404, wrong) : Response.json({})
  })
}
