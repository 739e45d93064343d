import { z } from 'zod'

/** Short, opaque, permanent id inside a design. */
export const idSchema = z
  .string()
  .regex(/^[a-z0-9]{2,24}$/, 'a short id of lower-case letters and digits')
  .refine((id) => !(id in Object.prototype), 'an id that is not a word of the language')
export const slugSchema = z
  .string()
  .regex(/^[a-z0-9-]{1,40}$/, 'lower-case letters, digits and hyphens, 1 to 40 of them')

export const nameSchema = z
  .string()
  .trim()
  .min(1, 'a name of at least one character')
  .max(60, 'a name of at most 60 characters')
