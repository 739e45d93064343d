import { execFileSync } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import fs from 'node:fs'
import { Duplex } from 'node:stream'
import { unzipSync } from 'fflate'
import { z } from 'zod'
import { problemWords, readDocument } from '../core/documents/readDocument'
import { platformOf } from '../core/bundle/chipClass'
import { bundleFiles, ON_BOARD } from '../core/bundle/bundleFiles'
import { builtInCatalog, type Catalog } from '../core/catalog/catalog'
import type { Design } from '../core/model/design'
import { sha256Hex } from '../core/hash/sha256Hex'
import type { WentOn } from '../core/bundle/installSteps'
import { compile } from '../core/nodefile/compile'
import { nodeFileSchema } from '../core/nodefile/nodeFile'
import type { BrokerAddress } from '../core/publish/describe'
import { readRuntime, unreachable, zipOf } from '../server/nodes/installBundle'
import { putFiles } from './putFiles'
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

/** Files of a bundle that go onto the board, checked against its own checksums. */
export function boardFiles(zip: Uint8Array): Map<string, Uint8Array> {
  const entries = unzipSync(zip)
  const sums = entries.SHA256SUMS && Buffer.from(entries.SHA256SUMS).toString('utf8')
  if (sums === undefined) throw new Error('This is no install bundle: it has no SHA256SUMS.')
  for (const line of sums.trim().split('\n')) {
    const [sum = '', name = ''] = line.split(/ {2}(.*)/)
    if (name === 'secret.example.json') continue
    const content = entries[name]
    if (content === undefined) throw new Error(`${name} is missing from the bundle.`)
    if (sha256Hex(content) !== sum) throw new Error(`${name} is not as it was written: its checksum differs.`)
  }
  const files = new Map(
    Object.entries(entries).flatMap(([name, content]) =>
      name.startsWith(ON_BOARD) && !name.endsWith('/') ? [[name.slice(ON_BOARD.length), content] as const] : [],
    ),
  )
  if (!files.has('secret.json'))
    throw new Error(
      'This bundle has no passwords. Fill in secret.example.json and put it into the bundle as board/secret.json, or make the bundle with passwords on the Program bench.',
    )
  return files
}

/** Serial ports as this system lists them. */
const PORTS: Partial<Record<NodeJS.Platform, RegExp>> = {
  linux: /^tty(ACM|USB)\d/,
  darwin: /^cu\.(usbmodem|usbserial|wchusbserial|SLAB)/,
}

function ports(): string[] {
  const kind = PORTS[process.platform]
  return kind
    ? fs
        .readdirSync('/dev')
        .filter((n) => kind.test(n))
        .map((n) => `/dev/${n}`)
    : []
}

function openPort(port: string): Duplex {
  if (process.platform !== 'win32')
    execFileSync('stty', [process.platform === 'darwin' ? '-f' : '-F', port, '115200', 'raw', '-echo'])
  return Duplex.from({ readable: fs.createReadStream(port), writable: fs.createWriteStream(port) })
}

/** Boards with USB of their own take the port along when they start anew, and may bring it back under another name. */
async function portAgain(port: string, before: readonly string[]): Promise<string> {
  for (const end = Date.now() + 20_000; Date.now() < end;) {
    await new Promise((r) => setTimeout(r, 500))
    if (fs.existsSync(port) || process.platform === 'win32') return port
    const [fresh, ...more] = ports().filter((p) => !before.includes(p))
    if (fresh !== undefined && more.length === 0) return fresh
  }
  throw new Error(
    `${port} went away when the board started anew, and has not come back within 20 s. Unplug it, plug it in, see which port is new, and install again: the board waits at its prompt.`,
  )
}

/** Puts a bundle onto the board at a serial port. */
export async function install(zipFile: string, port: string): Promise<void> {
  const files = boardFiles(fs.readFileSync(zipFile))
  const file = nodeFileSchema.parse(JSON.parse(Buffer.from(files.get('node.json') ?? []).toString('utf8')))
  const chip = builtInCatalog.boards[file.board]?.interpreter.chip ?? '32-class'
  const before = ports()
  let line = openPort(port)
  try {
    await putFiles(line, {
      files,
      platform: platformOf(chip),
      patienceMs: file.sleep ? (file.sleep.everyS + 30) * 1000 : undefined,
      reopen: async () => {
        line.destroy()
        line = openPort(await portAgain(port, before))
        return line
      },
      told: (what, done, of) => console.log(`${String(done).padStart(3)}/${of}  ${what}`),
    })
    console.log('Written, read back and started. The node says it is online within half a minute.')
  } finally {
    line.destroy()
  }
}
