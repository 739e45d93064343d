import { z } from 'zod'
import { placeWordOf } from '@/core/model/renew'
import { readDesign } from '@/core/model/readDesign'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/**
 * Brings a design in from the text of its file, with the catalogue items it carries. A node of this identity must not
 * be here yet.
 */
export function POST(request: Request): Promise<Response> {
  return write(
    request,
    z.strictObject({ text: z.string().max(900_000), author: z.string().max(60) }),
    async ({ text, author }, product) => {
      const read = readDesign(text, product.catalog)
      if (!read.ok)
        return problem(422, 'The file is not as expected; nothing was taken from it.', {
          problems: read.problems.slice(0, 20),
        })
      const clash = await product.importDesign(read.value, author, placeWordOf(JSON.parse(text)))
      return clash ? problem(422, `${clash}.`) : Response.json({ slug: read.value.slug }, { status: 201 })
    },
  )
}
