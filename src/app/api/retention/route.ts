import { z } from 'zod'
import { write } from '@/host/write'

/** Somebody's word that old readings which were held back may go. */
export function POST(request: Request): Promise<Response> {
  return write(request, z.strictObject({ confirmed: z.literal(true) }), async (_, { ingest }) =>
    Response.json({ removed: await ingest.upkeep.clearOld(true) }),
  )
}
