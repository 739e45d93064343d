import { z } from 'zod'

/** A typed number within a range, said in the words of the field. Accepts a comma as decimal mark. */
export function numberIn(min: number, max: number, unit: string) {
  const range = `a number from ${min} to ${max}${unit ? ` ${unit}` : ''}`
  return z.string().transform((text, ctx) => {
    const value = Number(text.trim().replace(',', '.').replace('−', '-'))
    if (text.trim() === '' || !Number.isFinite(value) || value < min || value > max) {
      ctx.addIssue({ code: 'custom', message: `Found “${text.slice(0, 20)}”, expected ${range}.` })
      return z.NEVER
    }
    return value
  })
}
