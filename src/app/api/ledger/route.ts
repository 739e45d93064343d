import { eventStream, lastHeard } from '@/server/http/eventStream'
import { guard } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'
import type { LedgerRow } from '@/wire/protocol'

export const dynamic = 'force-dynamic'

/** Messages as they pass, in batches; after a gap those that are still remembered. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const {
      ingest: { ledger },
      stream: { epoch, ended },
    } = await product()
    const [before, number] = lastHeard(request).split('-')
    return eventStream(request, ended, (send) => {
      const tell = (rows: LedgerRow[]) => {
        const last = rows.at(-1)
        if (last) send(`${epoch}-${last.id}`, 'rows', rows)
      }
      tell(ledger.since(before === epoch ? Number(number) : 0))
      return ledger.follow(tell)
    })
  })
}
