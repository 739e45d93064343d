import { z } from 'zod'
import { write } from '@/host/write'
import { proofScheduleSchema } from '@/wire/proof'

/** How often the clock has a run done that only listens; null: never. */
export function POST(request: Request): Promise<Response> {
  return write(
    request,
    z.strictObject({ schedule: proofScheduleSchema.nullable() }),
    async ({ schedule }, { proofs }) => {
      await proofs.keepSchedule(schedule)
      return Response.json({})
    },
  )
}
