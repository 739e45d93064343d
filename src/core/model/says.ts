import { z } from 'zod'
import { familySchema, fitsFamily, MOST_BITS } from '../radio/subghz/family'

const code = z
  .string()
  .regex(/^[01f]+$/, 'bits as 0 and 1, f for the third state')
  .max(MOST_BITS)

/** What a transmitter says for one thing it switches: the make as it was when the code was taken, and the codes. */
export const saysSchema = z.strictObject({
  family: familySchema,
  on: code,
  off: code.nullable().describe('null: one code alone, which the far thing takes as a press'),
})
export type Says = z.infer<typeof saysSchema>

/** Why nothing may be said this way, and what could; null when it may. */
export function saysFault({ family, on, off }: Says): { refused: string; accepts: string } | null {
  const bits = `${family.bits} ${family.open ? 'symbols' : 'bits'}`
  if (family.rolling)
    return {
      refused: `codes of “${family.name}” change with every press: a copy opens nothing, and trying can lock the owner out`,
      accepts: 'a family whose codes stay the same',
    }
  if (![on, ...(off === null ? [] : [off])].every((c) => fitsFamily(family, c)))
    return {
      refused: `a code of “${family.name}” has ${bits}`,
      accepts: `${bits} of 0 and 1${family.open ? ' and f' : ''}`,
    }
  return on === off ? { refused: 'one code would say on and off', accepts: 'codes that differ in some bit' } : null
}
