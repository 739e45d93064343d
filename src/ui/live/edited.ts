import type { z } from 'zod'
import { type Change, changesMeet, invertChanges } from '../../core/documents/changes'
import type { Applied, Revert } from '../../core/documents/editing'

/** An edit of this tab that the server has not saved yet. */
export interface PendingEdit<B> {
  id: string
  body: B
  words: string
  at: string
}

/** What one gesture did, and the edits that take it back, in the order they are to be made. */
export interface Step<B> {
  words: string
  backs: B[]
}

/** A document as a tab has it: as the server knows it, and with this tab's unsaved edits on top. */
export interface Edited<D, B> {
  server: D
  seq: number
  /** With this tab's unsaved edits on top: what the screen shows. */
  current: D
  pending: PendingEdit<B>[]
  undo: Step<B>[]
  redo: Step<B>[]
}

export interface Dropped<B> {
  edit: PendingEdit<B>
  reason: string
}

/** How one kind of document is edited. */
export interface Editing<D, B> {
  schema: z.ZodType<B>
  apply: (document: D, body: B) => Applied<D>
  words: (body: B, document: D) => string
  touches: (body: B) => readonly string[]
}

export type Made<D, B> =
  { ok: true; state: Edited<D, B>; words: string; backs: B[] } | { ok: false; reason: string; accepts: string | null }

const MOST_STEPS = 200

/** Everything a tab does with the edits of a document; nothing here asks or tells anybody. */
export function editedDocument<D, B extends { kind: string }>(of: Editing<D, B | Revert>) {
  type State = Edited<D, B | Revert>
  type Body = B | Revert

  /** What a person changed with an edit. What only followed is nobody's word. */
  function chosenBy(body: Body, changes: readonly Change[]): Change[] {
    const touched = of.touches(body)
    return changes.filter((c) => touched.includes(c.path[0] ?? ''))
  }

  /**
   * Own unsaved edits on top of a document that has moved on. Those that touch what others chose are dropped, with the
   * reason.
   */
  function rebase(
    server: D,
    pending: readonly PendingEdit<Body>[],
    others: readonly Change[],
  ): { current: D; kept: PendingEdit<Body>[]; dropped: Dropped<Body>[] } {
    let current = server
    const kept: PendingEdit<Body>[] = []
    const dropped: Dropped<Body>[] = []
    for (const edit of pending) {
      const applied = of.apply(current, edit.body)
      if (!applied.ok) dropped.push({ edit, reason: applied.reason })
      else if (changesMeet(chosenBy(edit.body, applied.changes), others))
        dropped.push({ edit, reason: 'the same place was changed elsewhere' })
      else {
        current = applied.value
        kept.push(edit)
      }
    }
    return { current, kept, dropped }
  }

  /** The document as the server gives it; what this tab had not saved stays on top. */
  function begun(server: D, seq: number, old?: State): { state: State; dropped: Dropped<Body>[] } {
    const { current, kept, dropped } = rebase(server, old?.pending ?? [], [])
    return {
      state: { server, seq, current, pending: kept, undo: old?.undo ?? [], redo: old?.redo ?? [] },
      dropped,
    }
  }

  function one(state: State, body: Body): Made<D, Body> {
    const checked = of.schema.safeParse(body)
    if (!checked.success)
      return { ok: false, reason: checked.error.issues[0]?.message ?? 'this cannot be done', accepts: null }
    // As the server will read it: without blanks around a name, for one.
    const asked = checked.data
    const applied = of.apply(state.current, asked)
    if (!applied.ok) return applied
    const words = of.words(asked, state.current)
    const edit = { id: crypto.randomUUID(), body: asked, words, at: new Date().toISOString() }
    const back: Revert = {
      kind: 'revert',
      of: words.replace(/^take back: /, '').slice(0, 200),
      changes: invertChanges(applied.changes),
    }
    return {
      ok: true,
      state: { ...state, current: applied.value, pending: [...state.pending, edit] },
      words,
      backs: [back],
    }
  }

  function all(start: State, bodies: readonly Body[]): Made<D, Body> {
    let state = start
    const backs: Body[] = []
    let first = ''
    for (const body of bodies) {
      const made = one(state, body)
      if (!made.ok) return made
      state = made.state
      first ||= made.words
      backs.unshift(...made.backs)
    }
    return { ok: true, state, backs, words: bodies.length > 1 ? `${first} and ${bodies.length - 1} more` : first }
  }

  /** Edits as one gesture, all or none of them; it can be taken back as one. */
  function made(state: State, bodies: readonly Body[]): Made<D, Body> {
    const done = all(state, bodies)
    if (!done.ok) return done
    const undo = [...state.undo.slice(1 - MOST_STEPS), { words: done.words, backs: done.backs }]
    return { ...done, state: { ...done.state, undo, redo: [] } }
  }

  /** The last gesture taken back, or done again. A step that cannot be made any more is forgotten. */
  function moved(
    state: State,
    from: 'undo' | 'redo',
  ): { state: State; words: string | null; refused: { reason: string; accepts: string | null } | null } {
    const step = state[from].at(-1)
    if (!step) return { state, words: null, refused: null }
    const to = from === 'undo' ? 'redo' : 'undo'
    const rest = state[from].slice(0, -1)
    const done = all(state, step.backs)
    if (!done.ok) return { state: { ...state, [from]: rest }, words: null, refused: done }
    return {
      state: { ...done.state, [from]: rest, [to]: [...state[to], { words: step.words, backs: done.backs }] },
      words: step.words,
      refused: null,
    }
  }

  /**
   * An edit the server has saved: ours comes off the waiting list, another's goes underneath it. Null when one before
   * it has not come: the document has to be asked for anew.
   */
  function taken(
    state: State,
    seq: number,
    editId: string,
    body: Body,
  ): { state: State; dropped: Dropped<Body>[] } | null {
    if (seq <= state.seq) return { state, dropped: [] }
    const applied = of.apply(state.server, body)
    if (seq !== state.seq + 1 || !applied.ok) return null
    if (state.pending[0]?.id === editId)
      return { state: { ...state, server: applied.value, seq, pending: state.pending.slice(1) }, dropped: [] }
    const { current, kept, dropped } = rebase(applied.value, state.pending, chosenBy(body, applied.changes))
    return { state: { ...state, server: applied.value, seq, current, pending: kept }, dropped }
  }

  /** Without an edit the server has refused, and without the way back from it. */
  function refused(state: State, editId: string): State {
    const { current, kept } = rebase(
      state.server,
      state.pending.filter((p) => p.id !== editId),
      [],
    )
    return { ...state, current, pending: kept, undo: state.undo.slice(0, -1) }
  }

  return { begun, made, moved, taken, refused, rebase, chosenBy }
}
