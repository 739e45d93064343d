import fc from 'fast-check'
import fs from 'node:fs'
import { applyEdit } from '../src/core/edits/apply'
import { designSchema } from '../src/core/model/design'
import { editBodySchema } from '../src/core/edits/edit'
import { readDesign } from '../src/core/model/readDesign'
import { canonicalJson } from '../src/core/hash/canonicalJson'
import {
  configReportSchema,
  doneSchema,
  healthSchema,
  parseObject,
  parseScalar,
  statusSchema,
} from '../src/core/publish/payload'
import { kinds } from '../tests/support/edits'
import { catalog, slipTank } from '../tests/support/designs'

/** Foreign input at every border: never a throw, never a half-applied edit. Returns rows for the table. */
export function fuzz(cases: number): [string, string, string][] {
  const good = fs.readFileSync('demo/designs/slip-tank.json', 'utf8')
  const design = slipTank()
  const before = canonicalJson(design)
  const json = fc.oneof(fc.json(), fc.string(), fc.string({ unit: 'binary' }))

  let run = 0
  fc.assert(
    fc.property(json, (text) => {
      run += 1
      parseScalar(text)
      for (const schema of [statusSchema, healthSchema, configReportSchema, doneSchema])
        parseObject<unknown>(schema, text)
    }),
    { numRuns: cases },
  )

  const names = [
    'kind',
    'partId',
    'signalId',
    'line',
    'pin',
    'set',
    'board',
    'wire',
    'component',
    'changes',
    'path',
    'before',
    'after',
    'of',
    'made',
    'label',
    '__proto__',
    'constructor',
  ]
  const values = fc.oneof(
    fc.constantFrom(
      'add-part',
      'lock',
      'revert',
      'condition',
      'choose-board',
      'accept-plan',
      'ranger',
      'slevel',
      'ranger.echo',
      'D34',
      'parts',
      'signals',
      '__proto__',
    ),
    fc.jsonValue({ maxDepth: 3 }),
  )
  // Well-formed wishes, well-formed ones with one member put out of shape, and things that are no wish at all.
  const wish = fc.oneof(...Object.values(kinds))
  const edit = fc.oneof(
    wish,
    fc.tuple(wish, fc.constantFrom(...names), values).map(([w, k, v]) => ({ ...w, [k]: v })),
    fc.dictionary(fc.constantFrom(...names), values),
  )
  let accepted = 0
  fc.assert(
    fc.property(edit, (wish) => {
      const parsed = editBodySchema.safeParse(wish)
      if (!parsed.success) return
      accepted += 1
      const applied = applyEdit(design, parsed.data, catalog)
      if (applied.ok) designSchema.parse(applied.design)
      if (canonicalJson(design) !== before) throw new Error('the design that was given has changed')
    }),
    { numRuns: cases },
  )

  const spoilt = fc
    .tuple(fc.nat(good.length - 1), fc.nat(40), fc.string({ maxLength: 12 }))
    .map(([at, cut, put]) => good.slice(0, at) + put + good.slice(at + cut))
  let readable = 0
  const files = cases
  fc.assert(
    fc.property(spoilt, (text) => {
      const read = readDesign(text, catalog)
      if (read.ok) readable += 1
      else if (read.problems.length === 0 || read.problems.some((p) => !(p.line >= 1) || !(p.column >= 1)))
        throw new Error('refused without a place')
    }),
    { numRuns: files },
  )

  return [
    ['fuzz: message payloads', `${run} cases, no crash`, '≥ 10⁵'],
    ['fuzz: edit requests', `${cases} cases, ${accepted} well-formed, none half applied`, '≥ 10⁵'],
    ['fuzz: design files', `${files} cases, ${readable} still readable, all others refused with a place`, '≥ 10⁵'],
  ]
}
