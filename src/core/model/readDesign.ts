import { type Catalog, withItems } from '../catalog/catalog'
import { type Problem, placeIn, readDocument, type ReadResult } from '../documents/readDocument'
import { type Design, designSchema } from './design'
import { withChoiceIds } from './choices'
import { renewDesign } from './renew'
import { brokenReferences } from './references'
import { freeOfReserved } from './reserved'

/** A design from text: well-formed, of this format, and naming only boards, parts and channels the catalogue has. */
export function readDesign(text: string, base: Catalog): ReadResult<Design> {
  const document = readDocument(text, designSchema, renewDesign)
  if (!document.ok) return document
  const old = withChoiceIds(document.value, withItems(base, document.value.items))
  const { design, said } = freeOfReserved(old)
  const read = { ok: true as const, value: design, ...(said.length > 0 ? { said } : {}) }
  const catalog = withItems(base, read.value.items)
  const at = placeIn(text)
  const problems = brokenReferences(read.value, catalog).map(({ path, word, ...rest }): Problem => ({
    ...(word === undefined ? at(path) : placeOf(text, path, word)),
    path: path.join(' › '),
    ...rest,
  }))
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
