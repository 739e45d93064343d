import type { z } from 'zod'

/** What a decoder made of a frame: the code, and by which family of senders. */
export interface Decoded {
  family: string
  code: string
}

/** Turns frames of one family of senders into codes; null for a frame of another. */
export interface Decoder<F> {
  family: string
  decode: (frame: F) => Decoded | null
}

/** A way things far off are heard. `F` is a frame as a gateway publishes it below `rx/`. */
export interface Medium<F = unknown> {
  /** As people call it. */
  name: string
  frame: z.ZodType<F>
  /** A frame nobody has decoded, in a few words: `of 66 pulses`. */
  describe(frame: F): string
  decoders: readonly Decoder<F>[]
}

/** Infers the frame, so that what describes and decodes it is checked against its schema. */
export const mediumOf = <F>(medium: Medium<F>): Medium<F> => medium
