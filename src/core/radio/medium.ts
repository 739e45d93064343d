import type { z } from 'zod'
import type { Family } from './subghz/family'

/** A way things far off are heard. `F` is a frame as a gateway publishes it below `rx/`. */
export interface Medium<F = unknown> {
  /** As people call it. */
  name: string
  frame: z.ZodType<F>
  /** A frame nobody has decoded, in a few words: `of 66 pulses`. */
  describe(frame: F): string
  /** The family that reads a frame best, by its place, and the whole code it says; null where none reads all of it. */
  decode(frame: F, families: readonly Family[]): { family: number; code: string } | null
}

/** Infers the frame, so that what describes and decodes it is checked against its schema. */
export const mediumOf = <F>(medium: Medium<F>): Medium<F> => medium
