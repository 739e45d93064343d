import { boardSchema } from '../core/catalog/board'
import { factWords } from '../core/startup/factWords'
import { readStartup, type StartReading } from '../core/startup/readStartup'

const chipSchema = boardSchema.shape.interpreter.unwrap().shape.chip

/**
 * What a start-up text says, on top and line by line; as JSON with `json`. Ends the process with 1 where something is
 * wrong. Throws for a class that is not known.
 */
export function boot(text: string, { chip, json }: { chip?: string; json?: boolean }): string {
  const known = chip === undefined ? undefined : chipSchema.safeParse(chip)
  if (known && !known.success)
    throw new Error(`There is no class “${chip ?? ''}”: --chip takes ${chipSchema.options.join(', ')}.`)
  const reading = readStartup(text, { chip: known?.data })
  process.exitCode = reading.head.kind === 'fine' ? 0 : 1
  if (json) return JSON.stringify(reading, null, 2)
  return bootWords(reading)
}

/** A reading as text: on top what is wrong or how far it came, then line by line, then what could be taken out. */
export function bootWords({ head, lines, starts, facts }: StartReading): string {
  return [
    head.text,
    ...head.next.map((what, i) => `  ${i + 1}. ${what}`),
    '',
    ...lines.flatMap((l) => [
      ...(starts.some((s) => s.firstLine === l.n) && starts.length > 1
        ? [`— start ${l.start + 1} of ${starts.length}`]
        : []),
      `${head.line === l.n ? '>' : ' '} ${l.text}${l.means === null ? '' : `   ← ${l.means}`}`,
    ]),
    '',
    ...factWords(facts).map(([name, value]) => `${name}: ${value}`),
  ].join('\n')
}
