import { z } from 'zod'
import { type Change, changeSchema, changesBetween, invertChanges, patch } from './changes'
import type { EditKind, KindSchema, Refused } from './editKind'

/** Takes back what another edit did, place by place; refuses when a place has been changed since. */
export const revertSchema = z.strictObject({
  kind: z.literal('revert'),
  of: z.string().max(200),
  changes: z.array(changeSchema).max(2000),
})
export type Revert = z.infer<typeof revertSchema>

export type Applied<D> = { ok: true; value: D; changes: Change[] } | { ok: false; reason: string; accepts: string }

type Kind<D, C> = EditKind<D, C, KindSchema>
type Schemas<K extends readonly { schema: KindSchema }[]> = { [I in keyof K]: K[I]['schema'] }

/** What a kind of document says of itself so that edits can change it. */
export interface EditedDocument<D, C> {
  schema: z.ZodType<D>
  /** What every edit brings along by itself. Not done after a revert: its changes are complete. */
  normalize: (document: D, context: C) => D
  /** What an edit may not do, whichever it is. */
  newlyWrong: (before: D, after: D, context: C) => Refused | null
  /** A place of the document as a person would name it. */
  placeName: (document: D, path: readonly string[]) => string
}

/** Schemas of a list of kinds, in its order; the union is made of them. */
export function schemasOf<const K extends readonly [{ schema: KindSchema }, ...{ schema: KindSchema }[]]>(
  kinds: K,
): Schemas<K> {
  // Mapping a tuple keeps its length and order, which the type of `map` does not say.
  return kinds.map((kind) => kind.schema) as unknown as Schemas<K>
}

/** An edit as it is sent and kept. `base` is the sequence number of the document it was made on. */
export const editEnvelope = <K extends z.ZodType, B extends z.ZodType>(document: K, body: B) =>
  z.strictObject({
    id: z.uuid(),
    document,
    base: z.int().min(0),
    body,
    author: z.string().max(60),
    at: z.iso.datetime().refine((at) => at >= '1970' && at < '9999', 'a moment between 1970 and 9999'),
  })

/**
 * Everything that is done with the edits of one kind of document: applying, taking back, saying. One list of kinds is
 * all it takes.
 */
export function editing<D extends object, C>(of: EditedDocument<D, C>, kinds: readonly Kind<D, C>[]) {
  type Body = { kind: string }
  const known = new Map(kinds.map((kind) => [kind.schema.shape.kind.value, kind]))
  const kindOf = (name: string): Kind<D, C> => {
    const kind = known.get(name)
    if (!kind) throw new Error(`There is no edit “${name}”.`)
    return kind
  }

  const isRevert = (edit: Body): edit is Revert => edit.kind === 'revert'

  function perform(document: D, edit: Body, context: C): D | Refused {
    if (!isRevert(edit)) return kindOf(edit.kind).apply(document, edit, context)
    const result = patch(document, edit.changes)
    if (result.ok) return result.value
    return {
      refused: `${of.placeName(document, result.path)} has been changed since`,
      accepts: 'undoing the later change first',
    }
  }

  /**
   * The document after one edit, with all it brings along, or why not and what would be accepted. The given document is
   * not changed.
   */
  function apply(document: D, edit: Body, context: C): Applied<D> {
    const step = perform(document, edit, context)
    if ('refused' in step) return { ok: false, reason: step.refused, accepts: step.accepts }
    const next = isRevert(edit) ? step : of.normalize(step, context)
    const checked = of.schema.safeParse(next)
    if (!checked.success) {
      const issue = checked.error.issues[0]
      return {
        ok: false,
        reason: `${issue?.path.join(' › ') ?? 'the document'}: ${issue?.message ?? 'not valid'}`,
        accepts: 'a value within the stated range',
      }
    }
    const wrong = of.newlyWrong(document, next, context)
    if (wrong) return { ok: false, reason: wrong.refused, accepts: wrong.accepts }
    return { ok: true, value: next, changes: changesBetween(document, next) }
  }

  /** The edit that takes back what `edit` does. Refuses later if someone has changed the same place since. */
  function invert(document: D, edit: Body, context: C): Revert | null {
    const applied = apply(document, edit, context)
    if (!applied.ok) return null
    return { kind: 'revert', of: isRevert(edit) ? edit.of : edit.kind, changes: invertChanges(applied.changes) }
  }

  function words(edit: Body, document: D): string {
    return isRevert(edit) ? `take back: ${edit.of}` : kindOf(edit.kind).words(edit, document)
  }

  /** Top-level fields an edit changes because a person asked for it; the rest follows by itself. */
  function touches(edit: Body): readonly string[] {
    return isRevert(edit) ? [...new Set(edit.changes.flatMap((c) => c.path.slice(0, 1)))] : kindOf(edit.kind).touches
  }

  return { apply, invert, words, touches }
}
