import { distance } from 'fastest-levenshtein'
import type { SheetRow } from './entitySheet'

/** What would confuse people or a controller about a name. `key` finds the same one again. */
export interface SheetFault {
  key: string
  rows: SheetRow[]
  words: string
  /** A name that would not; null where nobody can say. */
  better: string | null
}

/** A panel cuts what is longer, characters. */
const LONG_NAME = 40
/** Some clients and small boards take no longer topic, bytes. */
const LONG_TOPIC = 100

/** Names that collide, differ only in case or by a letter, or are too long, over the whole shop. */
export function sheetFaults(rows: readonly SheetRow[]): SheetFault[] {
  const offered = rows.filter((r) => r.offered)
  return [...pairFaults(offered), ...offered.flatMap(lengthFaults)]
}

function pairFaults(rows: readonly SheetRow[]): SheetFault[] {
  const out: SheetFault[] = []
  rows.forEach((a, i) => {
    for (const b of rows.slice(i + 1)) {
      const words = confusion(a, b)
      if (words !== null)
        out.push({ key: `${a.entityId} ${b.entityId}`, rows: [a, b], words, better: properName(b, rows) })
    }
  })
  return out
}

const plain = (name: string): string => name.toLowerCase().replace(/[\s_-]+/g, ' ')
/** Letters and figures that are taken for one another. */
const looks = (name: string): string =>
  plain(name)
    .replace(/[o0]/g, '0')
    .replace(/[il1|]/g, '1')
    .replace(/ /g, '')
const digitsOf = (name: string): string => name.replace(/\D+/g, ' ').trim()

/** Why two names are taken for one another; null where they are not. */
function confusion(a: SheetRow, b: SheetRow): string | null {
  const [from, to] = [fullName(a), fullName(b)]
  if (from === to) return `Two entities are called “${from}”: a controller numbers them in whatever order they come.`
  if (plain(from) === plain(to))
    return `“${from}” and “${to}” differ in capitals, hyphens or blanks alone: some controllers make one identifier of both.`
  if (looks(from) === looks(to)) return `“${from}” and “${to}” look the same: a letter stands for a figure.`
  const near = Math.min(from.length, to.length) > 6 && distance(plain(from), plain(to)) === 1
  return near && digitsOf(from) === digitsOf(to) ? `“${from}” and “${to}” differ by one letter: is one a slip?` : null
}

function lengthFaults(row: SheetRow): SheetFault[] {
  const out: SheetFault[] = []
  const say = (what: string, words: string) =>
    out.push({ key: `${row.entityId} ${what}`, rows: [row], words, better: null })
  const name = fullName(row)
  if (name.length > LONG_NAME)
    say('name', `“${name}” has ${name.length} characters: panels cut names after about ${LONG_NAME}.`)
  const bytes = new TextEncoder().encode(row.set ?? row.topic).length
  if (bytes > LONG_TOPIC)
    say('topic', `${row.set ?? row.topic} has ${bytes} bytes: some clients take at most ${LONG_TOPIC}.`)
  return out
}

/** What a controller shows: the node’s name and that of the signal, or the group’s and its role. */
export function fullName({ nodeName, name, group }: Pick<SheetRow, 'nodeName' | 'name' | 'group'>): string {
  return group ? `${group.name} ${group.role}` : `${nodeName} ${name}`
}

/** A name from what it is and, where that is not enough, which one of them it is: never its place again. */
export function properName(row: SheetRow, rows: readonly SheetRow[]): string {
  const others = new Set(rows.filter((r) => r !== row && r.nodeId === row.nodeId).map((r) => plain(r.name)))
  const stem = row.kind === 'on-off' || row.kind === 'press' || row.kind === 'state' ? row.name : row.kind
  for (const name of [stem, `${row.name} ${stem}`]) if (name.length > 0 && !others.has(plain(name))) return name
  for (let n = 2; ; n++) if (!others.has(`${plain(stem)} ${n}`)) return `${stem} ${n}`
}
