import { z } from 'zod'

export const MOST_TEMPLATES = 12
/** Characters of a template's text. */
export const LONGEST_TEXT = 8000

/** What a controller wants to be told of each entity or node, in a form of its own. */
export const templateSchema = z.strictObject({
  name: z.string().trim().min(1, 'a name of at least one character').max(60),
  per: z.enum(['entity', 'node']).describe('one message for each entity, or one for each node'),
  topic: z.string().max(500),
  payload: z.string().max(LONGEST_TEXT),
  json: z.boolean().describe('the payload has to be JSON'),
  on: z.boolean().describe('published; otherwise only kept'),
})
export type Template = z.infer<typeof templateSchema>
