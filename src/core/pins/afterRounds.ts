/** A search is asked whether to stop once a round: this many of its parts. */
export const ROUND = 64

/** A stop that counts rounds instead of looking at a clock: same design, same plan, on every machine. */
export function afterRounds(rounds: number): () => boolean {
  let n = 0
  return () => ++n > rounds
}

/** Rounds an edit, or a look at what an edit would bring, may take: nobody waits long, and both see the same plan. */
export const EDIT_ROUNDS = 24
