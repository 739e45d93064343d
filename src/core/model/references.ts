import { airSourceOf } from './airSource'
import { pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { nearestWord } from '../documents/readDocument'
import type { Design } from './design'

/** A place of a design that names what is not there, has what another has, or lies outside of what it may be. */
export interface BrokenReference {
  path: string[]
  found: string
  expected: string
  nearest: string | null
  /** The text value itself, where it is one that can be looked for. */
  word?: string
}

type Say = (path: string[], found: string, expected: string, nearest?: string | null, word?: string) => void

/**
 * Every one of them; none in a design that edits have led to. Names of boards, parts and channels first: the rest rests
 * on them.
 */
export function brokenReferences(design: Design, catalog: Catalog): BrokenReference[] {
  const out: BrokenReference[] = []
  const say: Say = (path, found, expected, nearest = null, word) =>
    out.push({ path, found, expected, nearest, ...(word === undefined ? {} : { word }) })
  names(design, catalog, say)
  if (out.length > 0) return out
  pins(design, catalog, say)
  twice(design, say)
  settings(design, catalog, say)
  behaviour(design, say)
  return out
}

function names(design: Design, catalog: Catalog, say: Say): void {
  const demand = (path: string[], word: string, among: object) => {
    if (Object.hasOwn(among, word)) return
    const words = Object.keys(among)
    const expected = words.length > 8 ? 'a name of the catalogue' : `one of ${words.join(', ')}`
    say(path, `“${word}”`, expected, nearestWord(word, words), word)
  }
  demand(['board', 'id'], design.board.id, catalog.boards)
  for (const [id, part] of Object.entries(design.parts)) demand(['parts', id, 'kind'], part.kind, catalog.parts)
  for (const [id, signal] of Object.entries(design.signals)) {
    demand(['signals', id, 'partId'], signal.partId, design.parts)
    const kind = catalog.parts[design.parts[signal.partId]?.kind ?? '']
    if (kind)
      demand(['signals', id, 'channel'], signal.channel, Object.fromEntries(kind.channels.map((c) => [c.id, true])))
  }
}

function pins(design: Design, catalog: Catalog, say: Say): void {
  const board = catalog.boards[design.board.id]
  const labels = board ? pinsOf(board).map((p) => p.label) : []
  const onBoard = (path: string[], label: string): boolean => {
    if (labels.includes(label)) return true
    say(path, `“${label}”`, `a pin of this board: ${labels.join(', ')}`, nearestWord(label, labels))
    return false
  }
  const users = new Map<string, string>()
  for (const [line, label] of Object.entries(design.plan.pins)) {
    const other = users.get(label)
    if (onBoard(['plan', 'pins', line], label) && other !== undefined)
      say(['plan', 'pins', line], `“${label}”, which ${other} has already`, 'each pin for one line')
    users.set(label, line)
  }
  for (const [line, label] of Object.entries(design.locks)) onBoard(['locks', line], label)
  for (const label of Object.keys(design.keptFree)) onBoard(['keptFree', label], label)
}

function twice(design: Design, say: Say): void {
  for (const field of ['slug', 'tag'] as const) {
    const seen = new Map<string, string>()
    for (const [id, signal] of Object.entries(design.signals)) {
      const other = seen.get(signal[field])
      const expected = field === 'slug' ? 'a topic of its own' : 'a tag of its own'
      if (other !== undefined) say(['signals', id, field], `“${signal[field]}”, which ${other} has already`, expected)
      seen.set(signal[field], id)
    }
  }
}

function settings(design: Design, catalog: Catalog, say: Say): void {
  for (const [id, part] of Object.entries(design.parts)) {
    for (const setting of catalog.parts[part.kind]?.settings ?? []) {
      const value = part.settings[setting.id]
      const path = ['parts', id, 'settings', setting.id]
      if (value === undefined) continue
      if ('choices' in setting) {
        const ids = setting.choices.map((c) => c.id)
        if (!ids.includes(String(value)))
          say(path, `“${value}”`, `one of ${ids.join(', ')}`, nearestWord(String(value), ids))
      } else if (typeof value !== 'number' || value < setting.min || value > setting.max)
        say(path, String(value), `${setting.min} to ${setting.max} ${setting.unit}`.trim())
    }
  }
}

function behaviour(design: Design, say: Say): void {
  const signals = Object.keys(design.signals)
  const demand = (path: string[], id: string) => {
    if (!Object.hasOwn(design.signals, id))
      say(path, `“${id}”`, `a signal of this design: ${signals.join(', ')}`, nearestWord(id, signals))
  }
  for (const [id, rule] of Object.entries(design.rules))
    for (const end of ['from', 'to'] as const)
      if (end === 'to' || !airSourceOf(rule.from)) demand(['rules', id, end], rule[end])
  for (const [id, guard] of Object.entries(design.guards))
    for (const of of guard.kind === 'needs' ? [guard.output, guard.input] : guard.of) demand(['guards', id], of)
  for (const [id, group] of Object.entries(design.groups))
    for (const [role, of] of Object.entries(group.roles)) demand(['groups', id, 'roles', role], of)
}
