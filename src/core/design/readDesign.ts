import { type Catalog, withItems } from '../catalog/catalog'
import { pinsOf } from '../catalog/board'
import { type Problem, nearestWord, placeIn, readDocument, type ReadResult } from '../documents/readDocument'
import { type Design, designSchema } from './design'
import { freeOfReserved } from './reserved'

/** A design from text: well-formed, of this format, and naming only boards, parts and channels the catalogue has. */
export function readDesign(text: string, base: Catalog): ReadResult<Design> {
  const document = readDocument(text, designSchema)
  if (!document.ok) return document
  const { design, said } = freeOfReserved(document.value)
  const read = { ok: true as const, value: design, ...(said.length > 0 ? { said } : {}) }
  const catalog = withItems(base, read.value.items)
  const problems: Problem[] = []
  const demand = (path: string[], word: string, words: string[]) => {
    if (!words.includes(word)) problems.push({ ...placeOf(text, path, word), path: path.join(' › '), found: `“${word}”`, expected: words.length > 8 ? 'a name of the catalogue' : `one of ${words.join(', ')}`, nearest: nearestWord(word, words) })
  }
  demand(['board', 'id'], read.value.board.id, Object.keys(catalog.boards))
  for (const [id, part] of Object.entries(read.value.parts)) demand(['parts', id, 'kind'], part.kind, Object.keys(catalog.parts))
  for (const [id, signal] of Object.entries(read.value.signals)) {
    demand(['signals', id, 'partId'], signal.partId, Object.keys(read.value.parts))
    const kind = catalog.parts[read.value.parts[signal.partId]?.kind ?? '']
    if (kind) demand(['signals', id, 'channel'], signal.channel, kind.channels.map((c) => c.id))
  }
  if (problems.length === 0) problems.push(...contradictions(read.value, catalog, placeIn(text)))
  return problems.length > 0 ? { ok: false, problems } : read
}

/** What no edit would have let in: a pin twice or one the board does not have, topics and tags twice, settings out of range, references to nothing. */
function contradictions(design: Design, catalog: Catalog, at: ReturnType<typeof placeIn>): Problem[] {
  const out: Problem[] = []
  const say = (path: string[], found: string, expected: string, nearest: string | null = null) =>
    out.push({ ...at(path), path: path.join(' › '), found, expected, nearest })
  const board = catalog.boards[design.board.id]
  const labels = board ? pinsOf(board).map((p) => p.label) : []
  const users = new Map<string, string>()
  for (const [line, label] of Object.entries(design.plan.pins)) {
    const other = users.get(label)
    if (!labels.includes(label))
      say(['plan', 'pins', line], `“${label}”`, `a pin of this board: ${labels.join(', ')}`, nearestWord(label, labels))
    else if (other !== undefined)
      say(['plan', 'pins', line], `“${label}”, which ${other} has already`, 'each pin for one line')
    users.set(label, line)
  }
  for (const [line, label] of Object.entries(design.locks))
    if (!labels.includes(label))
      say(['locks', line], `“${label}”`, `a pin of this board: ${labels.join(', ')}`, nearestWord(label, labels))
  for (const label of Object.keys(design.keptFree))
    if (!labels.includes(label))
      say(['keptFree', label], `“${label}”`, `a pin of this board: ${labels.join(', ')}`, nearestWord(label, labels))
  for (const field of ['slug', 'tag'] as const) {
    const seen = new Map<string, string>()
    for (const [id, signal] of Object.entries(design.signals)) {
      const other = seen.get(signal[field])
      if (other !== undefined)
        say(
          ['signals', id, field],
          `“${signal[field]}”, which ${other} has already`,
          field === 'slug' ? 'a topic of its own' : 'a tag of its own',
        )
      seen.set(signal[field], id)
    }
  }
  for (const [id, part] of Object.entries(design.parts)) {
    for (const setting of catalog.parts[part.kind]?.settings ?? []) {
      const value = part.settings[setting.id]
      if (value === undefined) continue
      if ('choices' in setting) {
        if (!setting.choices.includes(String(value)))
          say(
            ['parts', id, 'settings', setting.id],
            `“${value}”`,
            `one of ${setting.choices.join(', ')}`,
            nearestWord(String(value), setting.choices),
          )
      } else if (typeof value !== 'number' || value < setting.min || value > setting.max)
        say(
          ['parts', id, 'settings', setting.id],
          String(value),
          `${setting.min} to ${setting.max} ${setting.unit}`.trim(),
        )
    }
  }
  const signals = Object.keys(design.signals)
  const demandSignal = (path: string[], id: string) => {
    if (!signals.includes(id))
      say(path, `“${id}”`, `a signal of this design: ${signals.join(', ')}`, nearestWord(id, signals))
  }
  for (const [id, rule] of Object.entries(design.rules))
    for (const end of ['from', 'to'] as const) demandSignal(['rules', id, end], rule[end])
  for (const [id, guard] of Object.entries(design.guards))
    for (const of of guard.kind === 'needs' ? [guard.output, guard.input] : guard.of) demandSignal(['guards', id], of)
  return out
}

/** A design as a file: what reading it and writing it again gives unchanged. */
export function designText(design: Design): string {
  return `${JSON.stringify(designSchema.parse(design), null, 1)}\n`
}

/** Line and column of a text value, found through the path that leads to it. */
function placeOf(text: string, path: string[], word: string): { line: number; column: number } {
  let offset = 0
  for (const key of path) offset = Math.max(offset, text.indexOf(`"${key}"`, offset))
  offset = Math.max(offset, text.indexOf(JSON.stringify(word), offset))
  const before = text.slice(0, offset)
  return { line: before.split('\n').length, column: offset - before.lastIndexOf('\n') }
}
