import { shopText } from '@/core/shop/readShop'
import { latestShopEdits } from '@/server/db/shopRows'
import { guard } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** The shop document as a file; `?history` gives the last edits instead. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const { db, shop } = await product()
    if (new URL(request.url).searchParams.has('history'))
      return Response.json({ edits: await latestShopEdits(db, 200) })
    return new Response(shopText(shop.document), {
      headers: {
        'content-type': 'application/json',
        'content-disposition': 'attachment; filename="shop.json"',
      },
    })
  })
}
