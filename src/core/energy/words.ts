import { DAY_H, MONTH_H, YEAR_H } from '../units/hours'

/** Unit a life of this many hours is said in, and how many hours one is. */
function unitOf(hours: number): { words: string; h: number } {
  if (hours < 3 * DAY_H) return { words: 'h', h: 1 }
  if (hours < 2 * MONTH_H) return { words: 'days', h: DAY_H }
  return hours < 3 * YEAR_H ? { words: 'months', h: MONTH_H } : { words: 'years', h: YEAR_H }
}

const figure = (n: number): string => (n >= 9.95 ? n.toFixed(0) : n.toFixed(1))

/** `2.9 to 4.2 months`: both ends in the unit of the longer one. */
export function rangeWords(from: number, to: number): string {
  const { words, h } = unitOf(to)
  const [a, b] = [figure(from / h), figure(to / h)]
  return a === b ? `${a} ${words}` : `${a} to ${b} ${words}`
}

/** `3.5 months`. */
export const lastsWords = (hours: number): string => rangeWords(hours, hours)
