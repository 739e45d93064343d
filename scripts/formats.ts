import fs from 'node:fs'
import { z } from 'zod'
import { boardSchema } from '../src/core/catalog/board'
import { RULES } from '../src/core/checks/runChecks'
import { partKindSchema } from '../src/core/catalog/part'
import { designSchema } from '../src/core/model/design'
import { shopSchema } from '../src/core/shop/shop'
import { familyFileSchema } from '../src/core/radio/subghz/family'
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
    of('shop', 'Vivid Node shop', shopSchema),
    of('node-file', 'Vivid Node node file', nodeFileSchema),
    of('radio-family', 'Vivid Node radio family', familyFileSchema),
  ]
}

/** A page that lists every rule with when it applies and where it comes from. */
export function rulesPage(): string {
  const cell = (text: string) => text.replaceAll('|', '\\|')
  return [
    '# Rules',
    '',
    'Generated from `src/core/checks/rules`. A *stop* can destroy, hurt, or keep the board from starting; a *fix* will misbehave; a *note* is worth knowing. A rule may report less than its usual severity.',
    '',
    '| rule | usual severity | when | source |',
    '|---|---|---|---|',
    ...[...RULES]
      .sort((a, b) => a.id.localeCompare(b.id))
      .map((r) => `| \`${r.id}\` | ${r.severity} | ${cell(r.when)} | ${cell(r.source)} |`),
    '',
  ].join('\n')
}

export function writeFormats(): void {
  fs.writeFileSync('docs/rules.md', rulesPage())
  for (const { file, schema } of formats()) fs.writeFileSync(file, `${JSON.stringify(schema, null, 2)}\n`)
}
