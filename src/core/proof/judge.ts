import { misfit } from './fits'
import type { HeardSoFar, TopicHeard } from './heard'
import { leftovers } from './leftovers'
import type { Check, Line, LineVerdict } from './line'
import type { Promised, Thing } from './promises'

/** A description as it was found, with what it promises or why it promises nothing. */
export interface Announced {
  at: string
  thing: Thing | { reason: string }
}

export interface Grounds {
  root: string
  announced: readonly Announced[]
  heard: HeardSoFar
  /** Median of each number's topic in the run before. */
  before: ReadonlyMap<string, number>
}

/** Two intervals, and what a broker, a radio and a busy loop add, s. */
const LATE = { times: 2, moreS: 2 }
/** Medians this far apart are the same in another unit: a factor of a thousand, give or take two. */
const THOUSAND = { from: 500, to: 2000 }
/** One value and the next: nothing changes by so nearly a thousand in a moment. */
const JUMP = { from: 950, to: 1050 }
/** What covers decades by nature: light at night and at noon, a machine at rest and at work. UCUM codes. */
const WIDE = ['lx', 'W', 'A', 'mA', 'L/min', '/min', '1', 'ug/m3']

/**
 * A verdict for every line that listening alone can tell: each promise by itself, things among one another, and what
 * lies below the root without a promise. What was not heard for long enough is not tried, never passed.
 */
export function judge(grounds: Grounds): Line[] {
  const things = grounds.announced.flatMap(({ thing }) => ('reason' in thing ? [] : [thing]))
  return [
    ...grounds.announced.map((a) => announcedLine(a)),
    ...things.map((thing) => identityLine(thing, things)),
    ...things.flatMap((thing) => thing.promises.flatMap((p) => promiseLines(grounds, thing, p))),
    ...things.flatMap((thing) => placeLines(grounds, thing)),
    ...leftovers(grounds.root, things, grounds.heard),
  ]
}

/** Median of the numbers heard on each topic, for the run after this one. */
export function mediansOf(things: readonly Thing[], heard: HeardSoFar): Map<string, number> {
  const out = new Map<string, number>()
  for (const { topic, what } of things.flatMap((t) => t.promises)) {
    const middle = what === 'reading' ? medianOf(heard.texts(topic)) : null
    if (middle !== null) out.set(topic, middle)
  }
  return out
}

function announcedLine({ at, thing }: Announced): Line {
  const of = { thing: 'title' in thing ? thing.title : at, topic: at, name: 'description', check: 'announced' as const }
  return 'reason' in thing
    ? { ...of, verdict: 'failed', words: `This description promises nothing: ${thing.reason}.` }
    : { ...of, verdict: 'passed', words: `${thing.promises.length} topics promised.` }
}

function identityLine(thing: Thing, things: readonly Thing[]): Line {
  const of = { thing: thing.title, topic: thing.at, name: 'identity', check: 'one identity' as const }
  const twin = things.find((t) => t.at !== thing.at && t.id === thing.id)
  if (twin)
    return { ...of, verdict: 'failed', words: `${twin.at} announces the same thing: a controller lists it twice.` }
  const own = new Set(thing.promises.map((p) => p.topic))
  const rival = things.find((t) => t.at !== thing.at && t.promises.some((p) => own.has(p.topic)))
  if (rival)
    return { ...of, verdict: 'failed', words: `${rival.title} promises topics of it too: one value, two entities.` }
  return { ...of, verdict: 'passed', words: 'One description, one identity.' }
}

function promiseLines(grounds: Grounds, thing: Thing, promised: Promised): Line[] {
  const heard = grounds.heard.of(promised.topic)
  const texts = grounds.heard.texts(promised.topic)
  const line = (check: Check, verdict: LineVerdict, words: string): Line => ({
    thing: thing.title,
    topic: promised.topic,
    name: promised.title,
    check,
    verdict,
    words,
  })
  if (texts.length === 0)
    return [
      promised.what === 'event' || promised.seldom
        ? line('seen', 'not tried', 'Nothing happened while it was listened to.')
        : line('seen', 'failed', 'Promised, and nothing ever came: neither kept nor live.'),
    ]
  const said = `${heard.live.length} live, ${heard.keptAtStart === undefined ? 'none' : 'one'} kept.`
  return [
    line('seen', 'passed', said),
    ...valueLines(promised, texts, line),
    retainedLine(promised, heard, line),
    ...cadenceLine(grounds, thing, promised, line),
    ...(promised.what === 'reading' ? [scaleLine(grounds, promised, texts, line), nullLine(texts, line)] : []),
  ]
}

type Says = (check: Check, verdict: LineVerdict, words: string) => Line

function valueLines(promised: Promised, texts: readonly string[], line: Says): Line[] {
  const wrong = texts.flatMap((text) => misfit(promised, text) ?? [])
  const checks: Check[] = [
    'type',
    ...(promised.words ? ['words' as const] : []),
    ...(promised.min !== null || promised.max !== null ? ['range' as const] : []),
    ...(promised.decimals === null ? [] : ['decimals' as const]),
  ]
  return checks.map((check) => {
    const [first, ...more] = wrong.filter((w) => w.check === check)
    if (first === undefined) return line(check, 'passed', `All ${texts.length} as promised.`)
    return line(check, 'failed', `${first.words}${more.length > 0 ? `; ${more.length} more like it` : ''}.`)
  })
}

function retainedLine(promised: Promised, { keptAtStart, keptAtEnd, live }: TopicHeard, line: Says): Line {
  const kept = keptAtEnd ?? keptAtStart
  if (!promised.retained)
    return kept === undefined
      ? line('retained', 'passed', 'Not kept, as an event must be.')
      : line('retained', 'failed', `The broker keeps “${kept.slice(0, 40)}”: it happens again at every restart.`)
  if (kept === undefined)
    return line('retained', 'failed', 'The broker keeps nothing: a controller that starts now knows nothing of it.')
  // What is kept was read while more was said.
  const last = live.slice(-3).map((m) => m.text)
  return keptAtEnd !== undefined && last.length > 0 && !last.includes(keptAtEnd)
    ? line(
        'retained',
        'failed',
        `The broker keeps “${keptAtEnd.slice(0, 40)}”, the last word was “${(last.at(-1) ?? '').slice(0, 40)}”.`,
      )
    : line('retained', 'passed', 'The broker keeps the last word.')
}

function cadenceLine({ heard }: Grounds, thing: Thing, promised: Promised, line: Says): Line[] {
  if (promised.everyS === 0) return []
  const everyS = Math.max(promised.everyS, thing.wakesS ?? 0)
  const longestS = everyS * LATE.times + LATE.moreS
  const status = thing.promises.find((p) => p.what === 'status')
  if (status && heard.texts(status.topic).some((t) => t.includes('"offline"')))
    return [line('cadence', 'not tried', 'It was gone for a part of the time.')]
  const listenedS = heard.endS - heard.beganS
  const { live } = heard.of(promised.topic)
  const moments = [heard.beganS, ...live.map((m) => m.atS), heard.endS]
  const gapS = Math.max(...moments.slice(1).map((at, i) => at - (moments[i] ?? at)))
  if (gapS > longestS)
    return [line('cadence', 'failed', `Promised every ${everyS} s, silent for ${Math.round(gapS)} s.`)]
  return listenedS < longestS || live.length === 0
    ? [line('cadence', 'not tried', `Every ${everyS} s: that takes ${Math.ceil(longestS)} s of listening.`)]
    : [line('cadence', 'passed', `Longest silence ${Math.round(gapS)} s, promised every ${everyS} s.`)]
}

function scaleLine({ before }: Grounds, promised: Promised, texts: readonly string[], line: Says): Line {
  const [was, middle] = [before.get(promised.topic), medianOf(texts)]
  if (middle === null) return line('scale', 'not tried', 'No number came.')
  if (WIDE.includes(promised.unit ?? '')) return line('scale', 'not tried', 'It covers decades by nature.')
  const jump = jumpIn(texts)
  if (jump !== null) return line('scale', 'failed', `${jump}: the unit has changed on the way.`)
  if (was === undefined || was === 0 || middle === 0)
    return line('scale', 'not tried', 'Nothing of an earlier run to hold it against.')
  return isApart(middle, was, THOUSAND)
    ? line('scale', 'failed', `About ${middle} now, about ${was} before: another unit by a factor of a thousand.`)
    : line('scale', 'passed', `About ${middle}; ${was} before.`)
}

function isApart(a: number, b: number, by: { from: number; to: number }): boolean {
  const ratio = Math.abs(a) > Math.abs(b) ? a / b : b / a
  return ratio >= by.from && ratio <= by.to
}

/** Two successive numbers a factor of a thousand apart, in words. */
function jumpIn(texts: readonly string[]): string | null {
  const numbers = numbersIn(texts).filter((n) => Math.abs(n) > 1e-3)
  const at = numbers.findIndex((n, i) => i > 0 && isApart(n, numbers[i - 1] ?? n, JUMP))
  return at < 0 ? null : `${numbers[at - 1] ?? ''}, then ${numbers[at] ?? ''}`
}

function nullLine(texts: readonly string[], line: Says): Line {
  return texts.some((t) => t.trim() === 'null')
    ? line('null', 'passed', 'What it does not know it has said as null.')
    : line('null', 'not tried', 'It always knew its value: nobody took the part away.')
}

/** Promises that are not kept, but would be, each by what comes on the other’s topic. */
function placeLines({ heard }: Grounds, thing: Thing): Line[] {
  const values = thing.promises.filter((p) => ['reading', 'state', 'output'].includes(p.what))
  const known = (p: Promised) => heard.texts(p.topic).filter((t) => t.trim() !== 'null')
  const fits = (p: Promised, texts: readonly string[]) => texts.length > 0 && texts.every((t) => misfit(p, t) === null)
  const odd = values.filter((p) => known(p).length > 0 && !fits(p, known(p)))
  return odd.flatMap((p): Line[] => {
    const other = odd.find((o) => o !== p && fits(p, known(o)) && fits(o, known(p)))
    if (!other) return []
    const words = `What comes here fits ${other.title}, and what comes there fits this: the two topics are swapped.`
    return [{ thing: thing.title, topic: p.topic, name: p.title, check: 'place', verdict: 'failed', words }]
  })
}

const numbersIn = (texts: readonly string[]): number[] =>
  texts.map((t) => (t.trim() === 'null' ? NaN : Number(t))).filter((n) => Number.isFinite(n))

function medianOf(texts: readonly string[]): number | null {
  const sorted = numbersIn(texts).sort((a, b) => a - b)
  return sorted[Math.floor(sorted.length / 2)] ?? null
}
