import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { applyAll } from '@/core/edits/applyAll'
import { editBodySchema } from '@/core/edits/edit'
import { emptyDesign, nameSchema } from '@/core/model/design'
import { placeNameSchema } from '@/core/shop/shop'
import { slugFrom } from '@/core/model/slug'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({
  name: nameSchema,
  place: z.union([z.literal(''), placeNameSchema]),
  board: z.string(),
  edits: z
    .array(editBodySchema)
    .max(400)
    .default([])
    .describe('what the node is begun with, applied in order, all or none'),
  author: z.string().max(60),
})

/** Begins a node. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ name, place, board, edits, author }, product) => {
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
    const empty = emptyDesign({
      id: randomUUID(),
      name,
      slug,
      place: null,
      board: { id: found.id, version: found.version },
    })
    const begun = applyAll(empty, edits, product.catalog)
    if ('reason' in begun) return problem(422, begun.reason)
    const at = await product.shop.placeNamed(place, author)
    const refused = await product.workshop.add({ ...begun.design, place: at }, author)
    return refused ? problem(422, refused) : Response.json({ slug }, { status: 201 })
  })
}
