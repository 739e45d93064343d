import { type Catalog, withItems } from '../catalog/catalog'
import { type Problem, nearestWord, readDocument, type ReadResult } from '../documents/readDocument'
import { type Design, designSchema } from './design'

/** A design from text: well-formed, of this format, and naming only boards, parts and channels the catalogue has. */
export function readDesign(text: string, base: Catalog): ReadResult<Design> {
  const read = readDocument(text, designSchema)
  if (!read.ok) return read
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
  return problems.length > 0 ? { ok: false, problems } : read
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
