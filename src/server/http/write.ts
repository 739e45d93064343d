import type { z } from 'zod'
import { unstorableIn } from '../db/storable'
import { product } from '../instance'
import type { Product } from '../product'
import { guard, problem } from './guard'

const LARGEST = 1_000_000

/** A checked JSON body and the running product, or the answer that says what was wrong. */
export async function write<T>(request: Request, schema: z.ZodType<T>, then: (body: T, product: Product) => Promise<Response>): Promise<Response> {
  const refused = guard(request)
  if (refused) return refused
  const text = await request.text()
  if (text.length > LARGEST) return problem(413, `The request has ${text.length} characters; ${LARGEST} are accepted.`)
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (e) {
    return problem(400, `The request is not JSON: ${e instanceof Error ? e.message : ''}`)
  }
  const unstorable = unstorableIn(json)
  if (unstorable) return problem(422, `The request has ${unstorable} in a text; take it out.`)
  const parsed = schema.safeParse(json)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]
    return problem(422, `${issue?.path.join(' › ') || 'request'}: ${issue?.message ?? 'not as expected'}`)
  }
  return then(parsed.data, await product())
}
