import { z } from 'zod'
import { formOf } from './driverForm'
import { activeLow, chipPin, debounceMs, holdS, levels, made, pull, state, uart } from './fields'

const form = formOf<'state'>()

/** Drivers whose signals are true or false. */
export const states = {
  contact: form({
    schema: z.strictObject({
      ...state,
      driver: z.literal('contact'),
      pins: z.strictObject({ a: chipPin }),
      activeLow,
      pull,
      debounceMs,
      holdS,
    }),
    compile: ({ wakes, pin, line, activeLow: low, pull: held }) => ({
      ...wakes(),
      pins: { a: pin(line) },
      ...low(),
      ...held(line),
    }),
  }),
  presence: form({
    schema: z.strictObject({
      ...state,
      driver: z.literal('presence'),
      ...uart,
      holdS,
    }),
    compile: ({ serial }) => serial(256_000),
  }),
  levels: form({
    schema: z.strictObject({ ...made, driver: z.literal('levels'), levels }),
    compile: ({ design, signal }) => {
      const source = design.signals[signal.of ?? '']
      const { levels: how } = signal.conditioning
      return source && how ? { of: source.slug, levels: how } : 'the reading it is made of is gone'
    },
  }),
}
