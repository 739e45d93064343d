import { randomBytes } from 'node:crypto'
import fs from 'node:fs'
import { unzipSync } from 'fflate'
import { z } from 'zod'
import { problemWords, readDocument } from '../core/documents/readDocument'
import { bundleFiles, ON_BOARD } from '../core/bundle/bundleFiles'
import type { Catalog } from '../core/catalog/catalog'
import type { Design } from '../core/model/design'
import { sha256Hex } from '../core/hash/sha256Hex'
import type { WentOn } from '../core/bundle/installSteps'
import { compile } from '../core/nodefile/compile'
import type { BrokerAddress } from '../core/publish/describe'
import { readRuntime, unreachable, zipOf } from '../server/nodes/installBundle'
import type { Surroundings } from '../core/surroundings/surroundings'

/** Writes the install bundle of a design, without passwords: those are in the running product alone. */
export function writeBundle(
  { design, around, catalog }: { design: Design; around: Surroundings; catalog: Catalog },
  broker: BrokerAddress,
  { project, out, past }: { project: string; out: string | undefined; past?: WentOn | undefined },
): { path: string; files: string[] } | { reasons: string[] } {
  const far = unreachable(broker.host)
  if (far) return { reasons: [`${far} Say where it is: --broker HOST or --broker HOST:PORT`] }
  const board = catalog.boards[design.board.id]
  const result = compile(design, around, catalog, broker, 1)
  if (!result.ok || !board) return { reasons: result.ok ? ['its board is not on the shelf'] : result.reasons }
  const bundle = bundleFiles(
    { design, catalog, board },
    result.compiled,
    readRuntime(project, board.interpreter.chip),
    { secret: null, past },
  )
  const path = out ?? bundle.name
  fs.writeFileSync(path, zipOf(bundle))
  return { path, files: Object.keys(bundle.files).sort() }
}

const secretSchema = z.strictObject({
  broker: z.strictObject({ name: filled('a login of the broker'), password: filled('its password') }),
  networks: z.record(
    z.string(),
    z.array(z.strictObject({ name: filled('the access point’s name'), password: filled('its password') })).min(1),
  ),
  key: z.string().regex(/^([0-9a-f]{96}|…)$/, '96 hexadecimal digits, or … for one made here'),
  n: z.literal(0),
})

function filled(what: string) {
  return z.string().refine((v) => v !== '' && v !== '…', `still to be filled in: ${what}`)
}

/** A bundle without passwords made whole with a filled-in secret.example.json; gives the new file's name. */
export function complete(bundlePath: string, secretPath: string, out: string | undefined): string {
  const entries = unzipSync(fs.readFileSync(bundlePath))
  const read = readDocument(fs.readFileSync(secretPath, 'utf8'), secretSchema)
  if (!read.ok) throw new Error(read.problems.map((p) => problemWords(secretPath, p)).join('\n'))
  const { key, ...rest } = read.value
  const secret = { ...rest, key: key === '…' ? randomBytes(48).toString('hex') : key }
  const { SHA256SUMS: _, 'secret.example.json': __, ...files } = entries
  const whole: Record<string, Uint8Array> = {
    ...files,
    [`${ON_BOARD}secret.json`]: new TextEncoder().encode(JSON.stringify(secret)),
  }
  const sums = Object.keys(whole)
    .sort()
    .map((name) => `${sha256Hex(whole[name] ?? '')}  ${name}\n`)
    .join('')
  const name = out ?? bundlePath.replace(/(\.zip)?$/, '-with-passwords.zip')
  fs.writeFileSync(name, zipOf({ name, files: { ...whole, SHA256SUMS: sums } }), { mode: 0o600 })
  return name
}
