import { z } from 'zod'
import { itemText, readItem } from '@/core/catalog/itemFile'
import { guard, problem } from '@/server/http/guard'
import { answer, write } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** One item as a file: `?item=ID`. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const id = new URL(request.url).searchParams.get('item') ?? ''
    const { catalog } = await product()
    const item = catalog.boards[id] ?? catalog.parts[id]
    if (!item) return problem(404, `There is no “${id.slice(0, 40)}” on the shelf.`)
    return new Response(itemText(item), {
      headers: {
        'content-type': 'application/json',
        'content-disposition': `attachment; filename="${item.id}.json"`,
        'cache-control': 'no-store',
      },
    })
  })
}

/**
 * Brings a board or part kind in from the text of its file. 422 with the places of what is wrong; nothing is half
 * taken.
 */
export function POST(request: Request): Promise<Response> {
  return write(request, z.strictObject({ text: z.string().max(500_000) }), async ({ text }, product) => {
    const read = readItem(text)
    if (!read.ok)
      return problem(422, 'The file is not as expected; nothing was taken from it.', {
        problems: read.problems.slice(0, 20),
      })
    const { item } = read
    const clash = await product.bringIn(
      item.kind === 'boards' ? { boards: [item.value], parts: [] } : { boards: [], parts: [item.value] },
    )
    return clash
      ? problem(422, `${clash}.`)
      : Response.json({ id: item.value.id, name: item.value.name }, { status: 201 })
  })
}
