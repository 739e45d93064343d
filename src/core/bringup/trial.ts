import { durationWords } from '../units/format'

/** What happened to a node while it was tried. Times ms since 1970. */
export interface Happened {
  /** Times it was gone; `to` null while it is. */
  gone: { from: number; to: number | null }[]
  restarts: { at: number; cause: string }[]
  /** Weakest, sum and number of strengths told, dBm. */
  strength: { weakest: number; sum: number; n: number } | null
  /** First and last voltage of what feeds it, V. */
  supply: { first: number; firstAt: number; last: number; lastAt: number } | null
}

export const NOTHING_YET: Happened = { gone: [], restarts: [], strength: null, supply: null }
/** Kept of each list; more than that says no more. */
const MOST = 500

/** The same with one more thing that happened. Out and back within this is a blink of the broker, not a drop-out, ms. */
export const BLINK_MS = 5000

export function online(h: Happened, is: boolean, at: number): Happened {
  const last = h.gone.at(-1)
  if (!is) return last?.to === null ? h : { ...h, gone: [...h.gone, { from: at, to: null }].slice(-MOST) }
  if (last?.to !== null) return h
  const ended = { from: last.from, to: at }
  return { ...h, gone: [...h.gone.slice(0, -1), ...(at - last.from < BLINK_MS ? [] : [ended])] }
}

/** Health as told: strength, supply, and a restart where its uptime has begun anew. */
export function healthTold(
  h: Happened,
  told: { dbm: number | null; supplyV: number | null; uptimeS: number; restart: string },
  before: { uptimeS: number } | null,
  at: number,
): Happened {
  const again = before !== null && told.uptimeS < before.uptimeS
  const { dbm, supplyV } = told
  return {
    ...h,
    restarts: again ? [...h.restarts, { at, cause: told.restart }].slice(-MOST) : h.restarts,
    strength:
      dbm === null
        ? h.strength
        : {
            weakest: Math.min(dbm, h.strength?.weakest ?? dbm),
            sum: (h.strength?.sum ?? 0) + dbm,
            n: (h.strength?.n ?? 0) + 1,
          },
    supply:
      supplyV === null
        ? h.supply
        : { first: h.supply?.first ?? supplyV, firstAt: h.supply?.firstAt ?? at, last: supplyV, lastAt: at },
  }
}

export interface TrialVerdict {
  ok: boolean
  /** Share of its time that is over, 0 to 1. */
  share: number
  lines: { ok: boolean; words: string }[]
}

const HOUR = 3_600_000

/** Means of a reading in the first and the last tenth of a trial, in its published unit. */
export interface Drift {
  name: string
  unit: string
  decimals: number
  first: number
  last: number
}

/** What is said of a trial so far. A sleeper that restarts by waking is as it should be. */
export function trialVerdict(
  h: Happened,
  { startedAt, days, now, sleeps }: { startedAt: number; days: number; now: number; sleeps: boolean },
  drifts: readonly Drift[] = [],
): TrialVerdict {
  const lengthMs = days * 24 * HOUR
  const over = Math.min(now, startedAt + lengthMs) - startedAt
  const goneMs = h.gone.reduce((s, g) => s + (g.to ?? now) - g.from, 0)
  const asked = new Set(['program', ...(sleeps ? ['woke'] : [])])
  const odd = h.restarts.filter((r) => !asked.has(r.cause))
  const causes = [...new Set(odd.map((r) => r.cause))]
  const lines: TrialVerdict['lines'] = [
    h.gone.length === 0
      ? { ok: true, words: 'Never gone.' }
      : {
          ok: goneMs < 0.001 * Math.max(over, HOUR),
          words: `Gone ${h.gone.length} ${h.gone.length === 1 ? 'time' : 'times'}, ${durationWords(goneMs / 1000)} in all${sameHour(h) ?? ''}.`,
        },
    odd.length === 0
      ? { ok: true, words: 'No restart nobody asked for.' }
      : {
          ok: false,
          words: `${odd.length} ${odd.length === 1 ? 'restart' : 'restarts'} nobody asked for: ${causes.join(', ')}.`,
        },
  ]
  if (h.strength)
    lines.push({
      ok: h.strength.weakest >= -80,
      words:
        `Strength ${Math.round(h.strength.sum / h.strength.n)} dBm in the mean, ${h.strength.weakest} dBm at its weakest.`.replaceAll(
          '-',
          '−',
        ),
    })
  if (h.supply && h.supply.lastAt - h.supply.firstAt > 24 * HOUR) {
    const perDay = ((h.supply.first - h.supply.last) * 24 * HOUR) / (h.supply.lastAt - h.supply.firstAt)
    lines.push({
      ok: true,
      words:
        `Its supply falls by ${(1000 * perDay).toFixed(1)} mV a day; the Power bench makes a date of it.`.replaceAll(
          '-',
          '−',
        ),
    })
  }
  for (const { name, unit, decimals, first, last } of drifts)
    lines.push({
      ok: true,
      words:
        `${name}: ${first.toFixed(decimals)} ${unit} in the mean of its first tenth, ${last.toFixed(decimals)} ${unit} of its last.`.replaceAll(
          '-',
          '−',
        ),
    })
  return { ok: lines.every((l) => l.ok), share: Math.max(0, Math.min(1, over / lengthMs)), lines }
}

/** Drop-outs that come at the same hour of the day say so. */
function sameHour(h: Happened): string | null {
  if (h.gone.length < 3) return null
  const hours = h.gone.map((g) => new Date(g.from).getHours())
  const most = Math.max(...hours.map((x) => hours.filter((y) => y === x).length))
  const hour = hours.find((x) => hours.filter((y) => y === x).length === most)
  return most >= 0.7 * hours.length ? `, mostly between ${hour} and ${((hour ?? 0) + 1) % 24} o’clock` : null
}
