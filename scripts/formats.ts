import fs from 'node:fs'
import { z } from 'zod'
import { boardSchema } from '../src/core/catalog/board'
import { partKindSchema } from '../src/core/catalog/part'
import { designSchema } from '../src/core/design/design'
import { nodeFileSchema } from '../src/core/nodefile/nodeFile'

/** The open formats of the product as JSON Schema, generated from the schemas that check them. */
export function formats(): { file: string; schema: unknown }[] {
  const of = (name: string, title: string, schema: z.ZodType) => ({
    file: `docs/formats/${name}.schema.json`,
    schema: JSON.parse(JSON.stringify({ title, ...z.toJSONSchema(schema, { io: 'input' }) })) as unknown,
  })
  return [
    of('board', 'Vivid Node board', boardSchema),
    of('part', 'Vivid Node part kind', partKindSchema),
    of('design', 'Vivid Node design', designSchema),
    of('node-file', 'Vivid Node node file', nodeFileSchema),
  ]
}

export function writeFormats(): void {
  for (const { file, schema } of formats()) fs.writeFileSync(file, `${JSON.stringify(schema, null, 2)}\n`)
}
