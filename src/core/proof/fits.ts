import type { Promised } from './promises'

/** Why a text is not what was promised, by what is wrong with it; null where it is. */
export interface Misfit {
  check: 'type' | 'words' | 'range' | 'decimals'
  words: string
}

/** What of a promise a value has to fit. */
export type ValuePromise = Pick<Promised, 'types' | 'words' | 'min' | 'max' | 'decimals' | 'unit' | 'what'>

export function misfit(promise: ValuePromise, text: string): Misfit | null {
  const wrong = (check: Misfit['check'], words: string) => ({ check, words })
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return wrong('type', `found “${text.slice(0, 40)}”, which is not JSON`)
  }
  if (value === null) return promise.what === 'event' ? wrong('type', 'null is no event') : null
  const type = Array.isArray(value) ? 'array' : typeof value
  const types = promise.types.map((t) => (t === 'integer' ? 'number' : t))
  if (types.length > 0 && !types.includes(type))
    return wrong('type', `found ${type} ${text.slice(0, 40)}, promised ${types.join(' or ')}`)
  if (typeof value === 'string' && promise.words && !promise.words.includes(value))
    return wrong('words', `“${value}” is none of ${promise.words.join(', ')}`)
  return typeof value === 'number' ? numberMisfit(promise, value, text) : null
}

function numberMisfit(promise: ValuePromise, value: number, text: string): Misfit | null {
  const unit = promise.unit === null ? '' : ` ${promise.unit}`
  if ((promise.min !== null && value < promise.min) || (promise.max !== null && value > promise.max))
    return {
      check: 'range',
      words: `${text}${unit} is outside of ${promise.min ?? '−∞'} to ${promise.max ?? '∞'}${unit}`,
    }
  const finer = decimalsOf(text) - (promise.decimals ?? Infinity)
  return finer > 0
    ? { check: 'decimals', words: `${text} has ${decimalsOf(text)} decimals, promised ${promise.decimals ?? 0}` }
    : null
}

/** Decimals of a number as it was written; what is written with an exponent counts as its plain form. */
function decimalsOf(text: string): number {
  const found = /^-?\d+(?:\.(\d+))?(?:[eE]([+-]?\d+))?$/.exec(text.trim())
  return Math.max(0, (found?.[1]?.length ?? 0) - Number(found?.[2] ?? 0))
}
