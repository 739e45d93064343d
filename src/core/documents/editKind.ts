import type { z } from 'zod'

/** What stands in the way of an edit, and what would be accepted. */
export interface Refused {
  refused: string
  accepts: string
}

export type KindSchema = z.ZodObject<{ kind: z.ZodLiteral<string> }>

/** One thing a person can do to a document of kind `D`, whole: what it carries, does, touches and is called. */
export interface EditKind<D, C, S extends KindSchema> {
  schema: S
  /** Top-level fields of the document it may change by itself, before the document is made consistent again. */
  touches: readonly (keyof D & string)[]
  /** The document after it, or why not. The given document is not changed. */
  apply(document: D, edit: z.infer<S>, context: C): D | Refused
  /** What it does, in a few words, for undo and history: `median 3 → 5 on L1`. `document` is the one before. */
  words(edit: z.infer<S>, document: D): string
}
