import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { z } from 'zod'
import { CONTROL_VERSION, type Running, runningSchema } from '../../wire/brokerControl'
import { flushFile } from '../files/flush'
import { startOf } from '../files/startOf'

/** What the broker's process is to be. */
export interface BrokerWanted {
  project: string
  /** Its own files. */
  folder: string
  host: string
  port: number
  root: string
  tls: { port: number; certFile: string; keyFile: string } | null
  /** It ends with the process that started it, however that ends. */
  ends: boolean
}

/** The broker's folder stands beside the data: that may be put aside and another put in its place while it runs. */
export const brokerFolderOf = (dataFolder: string): string => `${dataFolder.replace(/\/+$/, '')}.broker`

/** Somebody has ended the broker on purpose: it is not started again by itself. */
export class BrokerStopped extends Error {}

const START_MS = 20_000
const STOP_MS = 10_000
const LOOK_MS = 20

const fileIn = (folder: string, name: string) => path.join(/* turbopackIgnore: true */ folder, name)
const secretSchema = z.object({ id: z.string(), password: z.string() })

/** The broker of this folder, when it runs. */
export function runningBroker(folder: string): Running | null {
  try {
    const running = runningSchema.parse(JSON.parse(fs.readFileSync(fileIn(folder, 'running.json'), 'utf8')))
    return startOf(running.pid) === running.started ? running : null
  } catch {
    return null
  }
}

/** What the product logs in with: made by the broker, readable by its owner alone. */
export function brokerSecret(folder: string): { id: string; password: string } {
  return secretSchema.parse(JSON.parse(fs.readFileSync(fileIn(folder, 'product.json'), 'utf8')))
}

/** Marks the state of certificate files: another one needs another listener. */
function stateOf(tls: BrokerWanted['tls']): string {
  if (!tls) return ''
  const hash = createHash('sha256')
  for (const file of [tls.certFile, tls.keyFile]) hash.update(fs.readFileSync(file))
  return hash.digest('hex')
}

function isWanted(running: Running, wanted: BrokerWanted): boolean {
  const tls = wanted.tls && { ...wanted.tls, of: stateOf(wanted.tls) }
  return (
    running.version === CONTROL_VERSION &&
    running.host === wanted.host &&
    running.port === wanted.port &&
    running.root === wanted.root &&
    JSON.stringify(running.tls) === JSON.stringify(tls)
  )
}

/**
 * The broker runs when this resolves: one that does already is left alone unless it is to listen elsewhere or is of
 * another release. Rejects with a sentence when it cannot; with BrokerStopped when it was ended on purpose, unless
 * `anyway`.
 */
export async function ensureBroker(wanted: BrokerWanted, anyway = false): Promise<Running> {
  const running = runningBroker(wanted.folder)
  if (running && isWanted(running, wanted)) return running
  if (running) await endBroker(wanted.folder, false)
  const mark = fileIn(wanted.folder, 'stopped')
  if (fs.existsSync(mark)) {
    if (!anyway)
      throw new BrokerStopped('the broker has been stopped with bin/broker stop; bin/broker start starts it again')
    fs.rmSync(mark, { force: true })
  }
  if (fs.mkdirSync(wanted.folder, { recursive: true, mode: 0o700 }) !== undefined)
    flushFile(path.dirname(wanted.folder))
  const of = { ...wanted, tls: wanted.tls && { ...wanted.tls, of: stateOf(wanted.tls) } }
  const said = fs.openSync(fileIn(wanted.folder, 'said.log'), 'w', 0o600)
  const child = spawn(
    process.execPath,
    ['--max-semi-space-size=32', fileIn(wanted.project, 'build/broker.mjs'), 'run', JSON.stringify(of)],
    { cwd: wanted.project, detached: true, stdio: [wanted.ends ? 'pipe' : 'ignore', said, said] },
  )
  fs.closeSync(said)
  const ended: string[] = []
  child.once('error', (e) => ended.push(e.message))
  child.once('exit', (code, signal) => ended.push(signal ?? `code ${code}`))
  child.unref()
  // Held open for as long as this process lives, and not keeping it alive.
  if (child.stdin && 'unref' in child.stdin) (child.stdin as unknown as { unref(): void }).unref()
  for (const until = Date.now() + START_MS; Date.now() < until;) {
    const started = runningBroker(wanted.folder)
    if (started?.pid === child.pid && started) return started
    if (ended.length > 0) break
    await new Promise((r) => setTimeout(r, LOOK_MS))
  }
  const why = fs.readFileSync(fileIn(wanted.folder, 'said.log'), 'utf8').trim().split('\n').at(-1)
  throw new Error(why || `the broker has not started (${ended[0] ?? 'no sign of it'})`)
}

/** Ends the broker of this folder and waits until it has; true when one ran. `onPurpose`: it stays ended. */
export async function endBroker(folder: string, onPurpose: boolean): Promise<boolean> {
  if (onPurpose && fs.existsSync(folder)) fs.writeFileSync(fileIn(folder, 'stopped'), '', { mode: 0o600 })
  const running = runningBroker(folder)
  if (!running) return false
  process.kill(running.pid, 'SIGTERM')
  for (const until = Date.now() + STOP_MS; startOf(running.pid) === running.started;) {
    if (Date.now() > until) process.kill(running.pid, 'SIGKILL')
    await new Promise((r) => setTimeout(r, LOOK_MS))
  }
  return true
}
