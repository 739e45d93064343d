import Ajv from 'ajv'
import addFormats from 'ajv-formats'
import fs from 'node:fs'
import { createRequire } from 'node:module'
import path from 'node:path'
import { builtInCatalog as catalog } from '../src/core/catalog/catalog'
import { asyncApi } from '../src/core/publish/asyncApi'
import { describe } from '../src/core/publish/describe'
import { promisesOf } from '../src/core/proof/promises'
import { NO_SURROUNDINGS } from '../src/core/surroundings/surroundings'
import { randomDesign, seeded, withAllSignals } from '../tests/support/randomDesigns'

const DESIGNS = 500
const broker = { host: '127.0.0.1', port: 1883, root: 'vn' }

/** Both announcements of so many random designs by the schemas of their own specifications, and what each promises. */
export function contract(): [string, string, string][] {
  const require = createRequire(path.resolve('package.json'))
  const json = (at: string): object => JSON.parse(fs.readFileSync(require.resolve(at), 'utf8')) as object
  const td = new Ajv({ strict: false, allErrors: true })
  addFormats(td)
  const validTd = td.compile(json('wot-thing-description-types/schema/td-json-schema-validation.json'))
  const validApi = new Ajv({ strict: false, validateFormats: false }).compile(
    json('@asyncapi/specs/schemas/3.0.0-without-$id.json'),
  )
  let [tds, apis, promises, signals] = [0, 0, 0, 0]
  for (let seed = 1; seed <= DESIGNS; seed++) {
    const design = withAllSignals(randomDesign(seeded(seed), 10))
    const described = describe(design, NO_SURROUNDINGS, catalog, broker)
    const thing = promisesOf(`vn/${design.slug}/td`, JSON.stringify(described))
    signals += Object.keys(design.signals).length
    if (validTd(described)) tds += 1
    if (validApi(asyncApi(design, NO_SURROUNDINGS, catalog, broker))) apis += 1
    if (!('reason' in thing)) promises += thing.promises.length
  }
  return [
    [`${DESIGNS} random designs, ${signals} signals`, `${tds} Thing Descriptions valid`, 'W3C schema, TD 1.1'],
    ['the same', `${apis} AsyncAPI documents valid`, 'schema of the specification, 3.0.0'],
    ['the same, read back', `${promises} topics promised`, `${signals + 2 * DESIGNS} signals, status and health`],
  ]
}
