import type { Chip } from '../bundle/chipClass'
import { type Gravity, PATTERNS, type Said, type StartFacts } from './patterns'
import type { StartCause } from './resets'
import { HIDDEN, withoutSecrets } from './withoutSecrets'

/** One line of the text, without what is secret in it. */
export interface StartLine {
  /** Counted from 1. */
  n: number
  text: string
  /** Start it belongs to, counted from 0. */
  start: number
  means: string | null
  gravity: Gravity
}

export interface Start {
  firstLine: number
  cause: StartCause | null
}

export interface StartReading {
  lines: StartLine[]
  starts: Start[]
  /** The same start over and over. */
  loop: { times: number } | null
  facts: Partial<StartFacts>
  /** What is wrong, or how far it came, and what to try first. */
  head: {
    kind: 'silent' | 'unreadable' | 'wrong' | 'fine'
    text: string
    next: readonly string[]
    /** Line that says so. */
    line: number | null
  }
}

/** What is known of the board beside its text. */
export interface About {
  chip?: Chip
  /** Passwords and keys that are known: they go, wherever they stand. */
  secrets?: readonly string[]
  /** Baud it was heard at. */
  baud?: number
  /** Chip maker’s USB in the chip itself, or a bridge. */
  usb?: 'none' | 'serial bridge' | 'native'
}

/** More than a board says in an hour of restarts; what comes before the last of it is left out. */
const MOST = 512 * 1024
const LINE = 400
/** From so many starts of the same kind on it is a loop. */
const LOOP = 3
/** Share of a text that has to be letters, digits and the like to count as readable. */
const READABLE = 0.75
const BEGINS = new Set([
  'rom',
  'start power',
  'start program',
  'start woke',
  'start usb',
  'start reset',
  'start watchdog',
  'brownout',
  'start other',
  'soft reboot',
  'download',
  '15 high',
  '2 low',
  '12 high',
])

/**
 * Reads what a board wrote on its serial line, live, pasted or from a file. Never throws; the text it gives back has
 * no passwords and keys in it. What it means follows the numbers chips and interpreter print, as their makers' data
 * sheets and sources give them.
 */
export function readStartup(text: string, about: About = {}): StartReading {
  const raw = text.slice(-MOST).split(/\r\n|\n|\r/)
  if (raw.at(-1)?.trim() === '') raw.pop()
  const reading = new Reading(about)
  for (const line of raw) reading.take(line.slice(0, LINE))
  const { lines, said, starts, facts } = reading
  const loop = loopIn(starts, lines, said)
  return { lines, starts, loop, facts, head: headOf({ raw, lines, said, starts, loop, facts, about }) }
}

/** Facts that are no longer true once the chip has started anew. */
const OF_ONE_START = ['wifi', 'strengthDbm', 'address', 'broker', 'firsts', 'refused'] as const

/** What has been read so far. */
class Reading {
  readonly lines: StartLine[] = []
  readonly said: (Said | null)[] = []
  readonly starts: Start[] = []
  readonly facts: Partial<StartFacts>
  /** A name whose value stands in the next line. */
  private pending = false

  constructor(private readonly about: About) {
    this.facts = about.chip === undefined ? {} : { chip: about.chip }
  }

  take(raw: string): void {
    const text = this.hidden(printable(raw))
    const what = meaning(text, this.facts.chip ?? null)
    if (what !== null && BEGINS.has(what.key)) this.begins(what)
    if (what?.facts) this.learn(what.facts)
    this.lines.push({
      n: this.lines.length + 1,
      text,
      start: Math.max(0, this.starts.length - 1),
      means: what?.means ?? null,
      gravity: what?.gravity ?? 0,
    })
    this.said.push(what)
  }

  private hidden(line: string): string {
    const empty = line.trim() === ''
    const text = this.pending && !empty ? line.replace(/(["']?)[^\s"',}\])]+\1/, HIDDEN) : line
    if (!empty) this.pending = /(?:pass\w*|psk|secret|key|token)["']?\s*[:=]\s*$/i.test(line)
    return withoutSecrets(text, this.about.secrets)
  }

  /** The loader's name and the reset number after it belong to one start. */
  private begins(what: Said): void {
    const header = what.key !== 'rom' && this.said.slice(-3).some((s) => s?.key === 'rom')
    const last = this.starts.at(-1)
    if (header && last) {
      last.cause = what.cause ?? last.cause
      return
    }
    this.starts.push({ firstLine: this.lines.length + 1, cause: what.cause ?? null })
    for (const fact of OF_ONE_START) delete this.facts[fact]
  }

  private learn({ firsts = [], refused = [], ...rest }: Partial<StartFacts>): void {
    const { facts, about } = this
    Object.assign(facts, rest, about.chip === undefined ? {} : { chip: about.chip })
    if (firsts.length > 0) facts.firsts = [...new Set([...(facts.firsts ?? []), ...firsts])]
    if (refused.length > 0) facts.refused = [...new Set([...(facts.refused ?? []), ...refused])]
  }
}

function meaning(line: string, chip: Chip | null): Said | null {
  for (const { find, says } of PATTERNS) {
    const found = find.exec(line)
    const what = found && says(found, chip)
    if (what) return what
  }
  return null
}

/** Control characters and what no console prints are shown as a dot. */
const printable = (line: string): string => line.replace(/[^\x20-\x7e\u00a0-\u024f\u2010-\u2026\t]/g, '·')

/** The same words, start after start, and none of them came as far as the broker. */
function loopIn(
  starts: readonly Start[],
  lines: readonly StartLine[],
  said: readonly (Said | null)[],
): { times: number } | null {
  if (starts.length < LOOP) return null
  const sleeps = starts.slice(1).every((s) => s.cause === 'woke')
  const kind = (i: number) => {
    const keys = lines.flatMap((l, at) => (l.start === i && said[at] ? [said[at].key] : []))
    return keys.includes('vn broker') ? `in service ${i}` : [...new Set(keys)].join()
  }
  // The first may be cut at its beginning, the last at its end.
  const kinds = starts.slice(1, -1).map((_, i) => kind(i + 1))
  const alike = kinds.every((k) => k === kinds[0])
  return alike && !sleeps ? { times: starts.length } : null
}

interface Heard {
  raw: readonly string[]
  lines: readonly StartLine[]
  said: readonly (Said | null)[]
  starts: readonly Start[]
  loop: { times: number } | null
  facts: Partial<StartFacts>
  about: About
}

function headOf({ raw, lines, said, starts, loop, facts, about }: Heard): StartReading['head'] {
  if (lines.every((l) => l.text.trim() === '')) return { kind: 'silent', line: null, ...silent(about) }
  if (said.every((s) => s === null) && !isReadable(raw.join('')))
    return { kind: 'unreadable', line: null, ...unreadable(about) }
  const last = starts.length - 1
  // In a loop any round tells it; otherwise only the last start is still true.
  const counts = (at: number) => loop !== null || (lines[at]?.start ?? 0) >= last
  const started = said.some((s) => s !== null && ['banner', 'prompt', 'vn start', 'vn file'].includes(s.key))
  const wrongs = said.flatMap((s, at) =>
    s !== null && s.gravity > 0 && counts(at) && stillTrue(s, facts, started) ? [{ s, at }] : [],
  )
  // A supply that falls ends the start it spoils: it is read in the one before, too.
  const fell = loop
    ? undefined
    : said.findLastIndex((s, at) => s?.key.startsWith('brownout') && (lines[at]?.start ?? 0) >= last - 1)
  if (fell !== undefined && fell >= 0 && !wrongs.some((w) => w.s.gravity === 3)) {
    const s = said[fell]
    if (s) wrongs.push({ s, at: fell })
  }
  const gravest = Math.max(0, ...wrongs.map((w) => w.s.gravity))
  const first = wrongs.find((w) => w.s.gravity === gravest)
  const often = loop ? `It starts over and over (${loop.times} times here): ` : ''
  if (first)
    return { kind: 'wrong', text: capital(`${often}${first.s.means}.`), next: first.s.next ?? [], line: first.at + 1 }
  if (loop)
    return {
      kind: 'wrong',
      text: `${often}no line says why.`,
      next: [
        'No word before the restart: mostly the supply.',
        'Take the parts off one by one: if it stays up without one, that one.',
      ],
      line: starts[1]?.firstLine ?? null,
    }
  return { kind: 'fine', line: null, ...howFar(said, facts) }
}

/** What has been mended later in the same start is not wrong any more. */
function stillTrue({ key, facts: its }: Said, facts: Partial<StartFacts>, started: boolean): boolean {
  // Some modules have their flash voltage burnt in: the pin says nothing to them, and they start.
  if (key === '12 high') return !started
  if (key.startsWith('wifi ')) return facts.wifi === its?.wifi && facts.broker !== 0
  if (key.startsWith('vn broker')) return facts.broker === its?.broker
  return true
}

function howFar(said: readonly (Said | null)[], facts: Partial<StartFacts>): { text: string; next: string[] } {
  const has = (key: string) => said.some((s) => s?.key === key)
  const where = facts.strengthDbm === undefined ? '' : `, ${facts.strengthDbm} dBm`.replace('-', '−')
  if (facts.broker === 0) {
    const firsts = facts.firsts ?? []
    return {
      text: `It runs: in the network${where}, the broker has let it in${firsts.length > 0 ? `, first readings of ${firsts.join(', ')}` : ''}.`,
      next: [],
    }
  }
  if (facts.wifi === 'up')
    return { text: `It is in the network${where}; the broker has not answered yet.`, next: ['Wait ten seconds more.'] }
  if (facts.wifi !== undefined) return { text: 'It is joining the network.', next: ['Wait half a minute.'] }
  if (has('vn file'))
    return { text: 'The runtime has read its file and starts its drivers.', next: ['Wait half a minute.'] }
  if (has('prompt') || has('banner'))
    return { text: 'The interpreter is alive and no program runs.', next: ['Put the node’s files on it.'] }
  if (said.some((s) => s !== null))
    return {
      text: 'The chip starts; nothing more was heard yet.',
      next: ['Wait ten seconds. Nothing more: press reset while listening.'],
    }
  return {
    text: 'Nothing of this is known: a program of its own says it.',
    next: ['Press reset while listening: the first lines say what is on the board.'],
  }
}

function silent({ usb, chip }: About): { text: string; next: string[] } {
  return {
    text: 'Nothing was heard.',
    next: [
      'Press reset while listening.',
      ...(usb === 'native'
        ? ['The chip’s own USB: its port goes away at each reset and comes back; choose it again.']
        : []),
      ...(usb === 'none'
        ? ['The adapter’s RX has to hear the board’s TX: if the two are not crossed, nothing comes.']
        : []),
      'The board is held in its reset, or has no supply: measure both.',
      'Another baud: 115 200, and 74 880 for the first lines of the 8266-class.',
      ...(chip === 'rp2040' ? ['This class says nothing before the interpreter is on it.'] : []),
      'The program uses the pins of the console.',
    ],
  }
}

function otherBaud(baud: number | undefined, chip: Chip | undefined): string {
  if (baud === 74_880) return 'Another baud: 115 200, which interpreter and runtime use.'
  if (chip !== undefined && chip !== '8266-class') return 'Another baud: 115 200.'
  return 'Another baud: 74 880 for the first lines of the 8266-class, 115 200 for all others.'
}

function unreadable({ baud, chip, usb }: About): { text: string; next: string[] } {
  return {
    text: `What comes cannot be read${baud === undefined ? '' : ` at ${baud} baud`}.`,
    next: [
      otherBaud(baud, chip),
      ...(usb === 'none' ? ['Ground between adapter and board; an adapter set to 3.3 V.'] : []),
      'A serial part on the pins of the console talks into it.',
    ],
  }
}

function isReadable(text: string): boolean {
  if (text.length === 0) return true
  let good = 0
  for (const c of text) if (/[\w\s.,:;()[\]{}'"=+/<>-]/.test(c)) good += 1
  return good / [...text].length >= READABLE
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)
