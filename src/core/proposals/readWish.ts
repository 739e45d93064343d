import type { Catalog } from '../catalog/catalog'
import type { PartKind } from '../catalog/part'
import { searchParts, wordsOf } from '../catalog/searchParts'
import { DAY_H, MONTH_H, YEAR_H } from '../units/hours'
import { plainName } from '../edits/freeLabel'
import { type Need, NEEDS, type Way } from './need'

export const POWERS = ['usb', '5v', '12v', '24v-ac', 'cell'] as const
export type Power = (typeof POWERS)[number]

export interface Asked {
  need: Need
  count: number
}

/** What the words of a wish come to. */
export interface ReadWish {
  needs: Asked[]
  /** How it is fed, where the words say so. */
  power: Power | null
  capacityAh: number | null
  everyS: number | null
  /** How long a cell is asked to last, h. */
  lastsH: number | null
  /** There is no network where it will be. */
  withoutNetwork: boolean
  /** Presses beside a single one that keys are asked to tell. */
  long: boolean
  double: boolean
  words: readonly string[]
  /** Words that nothing on the shelf answers to. */
  unanswered: string[]
}

const NUMBERS: Readonly<Record<string, number>> = Object.fromEntries(
  'zero one two three four five six seven eight nine ten eleven twelve'.split(' ').map((w, i) => [w, i]),
)
const countOf = (word: string | undefined): number | null => {
  if (word === undefined) return null
  const n = NUMBERS[word] ?? (/^\d{1,2}$/.test(word) ? Number(word) : NaN)
  return n >= 1 && n <= 60 ? n : null
}

/** Words that ask for nothing by themselves. */
const PLAIN = new Set(
  wordsOf(
    `a an the it this that these those and or of in on at to by with for from when while if whose which what is are be
    my our its their them there here should know do does want need node room small large little big old new house shop
    bedside gallery kitchen bedroom bathroom hall yard cellar attic shed studio store cupboard place wall bed table
    mains charger usb socket cell battery power powered supply network wifi wireless year month week day hour minute
    second mah ah v ac dc time ago one code light off board panel can has have who somebody so much me tell say says
    get without every each state them some any year over under into very just only please light bulb`,
  ).filter((w) => w !== 'light' && w !== 'somebody'),
)

/** Rooms and the like: a word before one of them only says which. */
const SOMEWHERE = new Set(
  'room shop yard store cupboard hall cellar attic shed studio kitchen house garden garage'.split(' '),
)

/** Where a phrase begins among words nobody has used up; -1 where it does not occur. */
function placeOf(words: readonly string[], used: readonly boolean[], phrase: readonly string[]): number {
  return words.findIndex((_, at) => phrase.every((p, i) => words[at + i] === p && used[at + i] === false))
}

/** What a wish in plain words asks for. Words of the needs are looked for first, then names of parts. */
export function readWish(text: string, catalog: Catalog): ReadWish {
  const words = wordsOf(text.replace(/(\d)[\s\u202f](?=\d{3}\b)/g, '$1'))
  const used = words.map(() => false)
  const has = (...any: string[]) =>
    any.some(
      (p) =>
        placeOf(
          words,
          words.map(() => false),
          wordsOf(p),
        ) >= 0,
    )
  const frame = framing(words, has)
  const needs: Asked[] = []
  for (const need of NEEDS) {
    const at = need.phrases
      .map(wordsOf)
      .sort((a, b) => b.length - a.length)
      .map((phrase) => ({ phrase, from: placeOf(words, used, phrase) }))
      .find(({ from }) => from >= 0)
    if (!at) continue
    spend(words, used, at.phrase)
    const count = need.counts ? countBefore(words, used, at.from) : 1
    needs.push({ need, count })
    for (const taken of need.takes) {
      spend(words, used, wordsOf(taken))
    }
  }
  const asks = (w: string, i: number) => used[i] === false && !PLAIN.has(w) && countOf(w) === null && !/^\d+$/.test(w)
  const { found, unanswered } = ofShelf(words.filter(asks), catalog)
  // A word right before something that was understood only says which one is meant.
  const open = unanswered.filter((w) => {
    const next = words.indexOf(w) + 1
    return used[next] !== true && !SOMEWHERE.has(words[next] ?? '')
  })
  return { needs: [...inWishOrder(needs, words), ...found], ...frame, words, unanswered: open }
}

/** What has been asked for is not asked for again wherever its words come back. */
function spend(words: readonly string[], used: boolean[], phrase: readonly string[]): void {
  for (let from = placeOf(words, used, phrase); from >= 0; from = placeOf(words, used, phrase))
    for (let i = 0; i < phrase.length; i++) used[from + i] = true
}

/** In the order in which the words name them. */
function inWishOrder(needs: Asked[], words: readonly string[]): Asked[] {
  const first = ({ need }: Asked) =>
    Math.min(
      ...need.phrases
        .map((p) =>
          placeOf(
            words,
            words.map(() => false),
            wordsOf(p),
          ),
        )
        .filter((i) => i >= 0),
    )
  return [...needs].sort((a, b) => first(a) - first(b))
}

/** A number up to three words before, if it belongs to nothing else. */
function countBefore(words: readonly string[], used: boolean[], from: number): number {
  for (let i = from - 1; i >= Math.max(0, from - 3) && used[i] === false; i--) {
    const n = countOf(words[i])
    if (n !== null) {
      used[i] = true
      return n
    }
  }
  return 1
}

/** How it is fed, how often it wakes, and what it may rely on. */
function framing(words: readonly string[], has: (...any: string[]) => boolean) {
  const number = (unit: string): number | null => {
    const at = words.findIndex((w, i) => w === unit && i > 0)
    const before = words[at - 1]
    return before === undefined ? null : (NUMBERS[before] ?? (/^\d+$/.test(before) ? Number(before) : null))
  }
  const mAh = number('mah')
  const minutes = number('minute')
  const hours = number('hour')
  return {
    power: powerOf(has),
    capacityAh: mAh === null ? null : mAh / 1000,
    lastsH: lastsH(words),
    everyS: interval(minutes, hours),
    withoutNetwork: has('without network', 'no network', 'without wifi', 'no wifi'),
    long: has('long'),
    double: has('double'),
  }
}

/** Time between wakings, s, where one is said. */
function interval(minutes: number | null, hours: number | null): number | null {
  if (minutes !== null) return minutes * 60
  return hours === null ? null : hours * 3600
}

const HOURS: Readonly<Record<string, number>> = { week: 7 * DAY_H, month: MONTH_H, year: YEAR_H }

/** `a year`, `six months`: the longest such time that is named. */
function lastsH(words: readonly string[]): number | null {
  const found = words.flatMap((w, i) => {
    const unit = HOURS[w]
    const before = words[i - 1] ?? ''
    return unit === undefined ? [] : [unit * (NUMBERS[before] ?? (/^\d+$/.test(before) ? Number(before) : 1))]
  })
  return found.length > 0 ? Math.max(...found) : null
}

function powerOf(has: (...any: string[]) => boolean): Power | null {
  if (has('24 v ac', '24v ac')) return '24v-ac'
  if (has('cell', 'battery', 'mah')) return 'cell'
  return has('12 v', '12v') ? '12v' : null
}

/** Words left over, each as the part of the shelf that answers to it best. */
function ofShelf(words: readonly string[], catalog: Catalog): { found: Asked[]; unanswered: string[] } {
  const found = new Map<string, Asked>()
  const unanswered: string[] = []
  for (const word of words) {
    const kinds = searchParts(catalog, word).filter((k) => k.group !== 'feeding' && answers(k, word))
    const [best] = kinds
    if (!best) unanswered.push(word)
    else if (!found.has(best.id)) found.set(best.id, { need: needOfPart(best, kinds), count: 1 })
  }
  return { found: [...found.values()], unanswered }
}

/** True where a word names the part or is what people look for it by, whole. */
const answers = (kind: PartKind, word: string): boolean => kind.finds.some((text) => wordsOf(text).includes(word))

function needOfPart(best: PartKind, kinds: readonly PartKind[]): Need {
  const others = kinds.filter((k) => k.group === best.group).slice(0, 3)
  return {
    id: best.id,
    asks: plainName(best).toLowerCase(),
    phrases: [],
    takes: [],
    counts: false,
    ways: others.map(wayOfPart),
  }
}

/** A part of the shelf as it is; what only consumes gets something that switches it. */
export function wayOfPart(kind: PartKind): Way {
  const plain = plainName(kind).toLowerCase()
  const base = { asked: [], inner: [], tells: {}, acts: {}, awake: false, parts: [] }
  if (kind.load)
    return {
      ...base,
      name: `${plain} on a relay`,
      load: kind.id,
      by: 'relay-module-high',
      slug: wordsOf(kind.name)[0] ?? 'load',
      why: `${kind.summary}. A relay contact switches it; it rests open.`,
      costs: 'It takes a supply of its own.',
    }
  const signals = Object.fromEntries(kind.channels.map((c) => [c.id, { slug: c.proposes.slug }]))
  return {
    ...base,
    name: plain,
    parts: [{ id: 'it', kind: kind.id, settings: {}, feeds: {}, signals }],
    why: `${kind.summary}.`,
    costs:
      kind.readyMade === null
        ? 'Nothing of the kind is sold ready made.'
        : 'It is one more thing to calibrate and to care for.',
  }
}
