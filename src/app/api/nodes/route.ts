import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { emptyDesign, nameSchema } from '@/core/model/design'
import { placeNameSchema } from '@/core/shop/shop'
import { slugFrom } from '@/core/model/slug'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({
  name: nameSchema,
  place: z.union([z.literal(''), placeNameSchema]),
  board: z.string(),
  author: z.string().max(60),
})

/** Begins a node. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ name, place, board, author }, product) => {
    const found = product.catalog.boards[board]
    if (!found)
      return problem(
        422,
        `“${board}” is not on the shelf; there are ${Object.keys(product.catalog.boards).join(', ')}.`,
      )
    const slug = slugFrom(
      name,
      product.workshop.all().map((n) => n.design.slug),
    )
    const refused = await product.workshop.add(
      emptyDesign({
        id: randomUUID(),
        name,
        slug,
        place: await product.shop.placeNamed(place, author),
        board: { id: found.id, version: found.version },
      }),
      author,
    )
    return refused ? problem(422, refused) : Response.json({ slug }, { status: 201 })
  })
}
