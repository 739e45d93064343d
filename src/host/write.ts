import type { z } from 'zod'
import { DatabaseError } from '../server/db/database'
import { unstorableIn } from '../server/db/storable'
import { product } from './instance'
import type { Product } from '../server/product'
import { bodyText } from '../server/http/body'
import { guard, problem } from '../server/http/guard'

const LARGEST = 1_000_000
/** Deeper than this nothing of ours is. */
const DEEPEST = 64

/** A checked JSON body and the running product, or the answer that says what was wrong. */
export function write<T>(
  request: Request,
  schema: z.ZodType<T>,
  then: (body: T, product: Product) => Promise<Response>,
  most = LARGEST,
): Promise<Response> {
  return read(request, guard, schema, async (body) => then(body, await product()), most)
}

/** A checked JSON body, read no further than its limit once `refuse` lets the request in. */
export function read<T>(
  request: Request,
  refuse: (request: Request) => Response | null,
  schema: z.ZodType<T>,
  then: (body: T) => Promise<Response>,
  most = LARGEST,
): Promise<Response> {
  return answer(async () => {
    const refused = refuse(request)
    if (refused) return refused
    const text = await bodyText(request, most)
    if (typeof text !== 'string') return text
    const deep = depthOf(text)
    if (deep > DEEPEST) return problem(422, `The request is nested ${deep} deep; at most ${DEEPEST} is accepted.`)
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
    return then(parsed.data)
  })
}

/** The answer, whatever happens on the way to it: never an empty one. */
export async function answer(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work()
  } catch (e) {
    const code = e instanceof DatabaseError ? (e.code ?? '') : ''
    const said = e instanceof Error ? e.message : String(e)
    if (code === '23505')
      return problem(
        409,
        'Something of this name or identity has just been put here by somebody else. Load the page again and look.',
      )
    if (/^22|^23/.test(code)) return problem(422, `A value cannot be stored: ${said}`)
    if (code === '53100' || /ENOSPC|No space left/i.test(said))
      return problem(507, 'The disk is full: nothing was changed. Make room on it and try again.')
    if (e instanceof DatabaseError)
      return problem(
        503,
        `The database cannot take this now: ${said}. Nothing was changed; try again, and look at the Ledger if it stays so.`,
      )
    return problem(
      500,
      `This failed here: ${said.slice(0, 200)}. Nothing is known of what was asked; load the page again and look.`,
    )
  }
}

/** How deep a JSON text is nested, without building it. */
function depthOf(text: string): number {
  let depth = 0
  let most = 0
  let inside = false
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (inside) {
      if (c === 92) i++
      else if (c === 34) inside = false
    } else if (c === 34) inside = true
    else if (c === 91 || c === 123) most = Math.max(most, ++depth)
    else if (c === 93 || c === 125) depth -= 1
  }
  return most
}
