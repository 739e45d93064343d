import { type ChildProcess, fork } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import fs from 'node:fs'
import net from 'node:net'
import os from 'node:os'
import path from 'node:path'
import { setFlagsFromString } from 'node:v8'
import { serve } from './serve'

// Runs the product in this process; for the demo also the simulated boards and the stand-in controller, each a process
// of its own. All end together.
const own = process.argv.includes('--own')
/**
 * To have everything loaded once after a build, so that its compiled code is kept: an empty shop on any free ports,
 * ended when it stands.
 */
const once = process.argv.includes('--once')
/** Pages follow their files: for work on them, on this machine alone. */
const dev = process.argv.includes('--dev')
const HOST = dev ? '127.0.0.1' : process.env.VIVID_HOST || '127.0.0.1'
/** Where this process itself finds what listens on HOST. */
const HERE = ['0.0.0.0', '::'].includes(HOST) ? '127.0.0.1' : HOST
const LOOPBACK = ['127.0.0.1', 'localhost', '::1'].includes(HOST)
const LEAST_PASSWORD = 10
/** A first start that takes longer than this is given up; what it would have kept is kept by a later one. */
const ONCE_MS = 60_000
const project = process.cwd()
const port = once ? 0 : portOf('PORT', 3000)
const mqttPort = once ? 0 : portOf('MQTT_PORT', 1883)
const data = once
  ? fs.mkdtempSync(path.join(os.tmpdir(), 'vivid-'))
  : path.resolve(process.env.VIVID_DATA ?? path.join(project, own ? 'data/shop' : 'data/demo'))
const { VIVID_TLS_CERT: certFile, VIVID_TLS_KEY: keyFile } = process.env
/** Pages by TLS too, where the user has a certificate. */
const pagesTls = certFile && keyFile && !once ? { port: portOf('HTTPS_PORT', 3443), certFile, keyFile } : null
const children: ChildProcess[] = []
let ending = false

function portOf(name: string, standard: number): number {
  const text = process.env[name] ?? String(standard)
  const value = Number(text)
  if (Number.isInteger(value) && value >= 1 && value <= 65535) return value
  console.error(`${name}=${text} is no port; a number from 1 to 65535 is expected.`)
  process.exit(2)
}

/** Beyond this machine everything asks for a password, and pages answer only to names that are theirs. */
function demandGuards(): void {
  if (LOOPBACK) return
  const unnamed = !process.env.VIVID_NAMES
    ? 'VIVID_NAMES must be set to the names or addresses this machine is reached by, separated by commas; the first is the one nodes are told.'
    : null
  const wrong =
    (process.env.VIVID_SHOP_PASSWORD ?? '').trim().length < LEAST_PASSWORD
      ? `VIVID_SHOP_PASSWORD must be set, with ${LEAST_PASSWORD} characters or more beside blanks at its ends: pages and settings would be open to everyone who reaches this machine.`
      : unnamed
  if (wrong === null) return
  console.error(`VIVID_HOST=${HOST} listens beyond this machine. ${wrong}`)
  process.exit(2)
}

async function demandFree(wanted: number, name: string, what: string): Promise<void> {
  const free = await new Promise<boolean>((resolve) => {
    const probe = net
      .createServer()
      .once('error', () => resolve(false))
      .listen(wanted, HOST, () => probe.close(() => resolve(true)))
  })
  if (free) return
  console.error(
    `Port ${wanted} for the ${what} is taken by another program. Stop that one, or choose another port: ${name}=${wanted + 1} ${own ? 'bin/start' : 'bin/demo'}`,
  )
  process.exit(1)
}

/** The product writes what it has gathered and ends this process; children end with it. */
function end(code: number): void {
  if (ending) return
  ending = true
  process.exitCode = code
  for (const child of children) child.kill('SIGTERM')
  setTimeout(() => {
    for (const child of children) child.kill('SIGKILL')
    process.exit(code)
  }, 6000).unref()
  if (globalThis.vividNode) process.kill(process.pid, 'SIGTERM')
  else process.exit(code)
}

function watch(child: ChildProcess, name: string): void {
  children.push(child)
  child.once('exit', (code, signal) => {
    if (ending) return
    console.error(`The ${name} has ended (${signal ?? `code ${code}`}); everything is stopped.`)
    end(1)
  })
}

process.once('SIGINT', () => end(0))
process.once('SIGTERM', () => end(0))

if (process.argv.includes('--fresh') && !own)
  for (const left of [data, `${data}.key`, `${data}.held`, `${data}.broker`])
    fs.rmSync(left, { recursive: true, force: true })
demandGuards()
// A shop of one's own may use the broker that listens there already: it starts, and its settings say what to do.
await Promise.all([demandFree(port, 'PORT', 'pages'), ...(own ? [] : [demandFree(mqttPort, 'MQTT_PORT', 'broker')])])

const secret = () => randomBytes(12).toString('base64url')
const [outside, controller, standin] = [secret(), secret(), secret()]
const brokerUrl = `mqtt://${HERE}:${mqttPort}`

// The database's functions are checked when they are first called, and made faster by compiling them once more ten
// times later than usual: neither falls into the start.
setFlagsFromString('--wasm-tiering-budget=18000000 --wasm-lazy-validation')
const inherited = { ...process.env }
Object.assign(process.env, {
  NODE_ENV: dev ? 'development' : 'production',
  NEXT_TELEMETRY_DISABLED: '1',
  VIVID_DATA: data,
  VIVID_HOST: HOST,
  MQTT_PORT: String(mqttPort),
  // A shop of one's own keeps its broker running for its nodes; the demo's ends with the demo.
  VIVID_BROKER_ENDS: process.env.VIVID_BROKER_ENDS ?? (own && !once ? '0' : '1'),
  ...(own
    ? {}
    : { VIVID_OUTSIDE_PASSWORD: outside, VIVID_CONTROLLER_PASSWORD: controller, VIVID_STANDIN_PASSWORD: standin }),
})
if (once) {
  delete process.env.VIVID_TLS_CERT
  process.once('exit', () =>
    [data, `${data}.key`, `${data}.held`, `${data}.broker`].forEach((left) =>
      fs.rmSync(left, { recursive: true, force: true }),
    ),
  )
  setTimeout(() => process.exit(1), ONCE_MS).unref()
}
const pages = await serve({
  project,
  dataFolder: data,
  host: HOST,
  port,
  here: HERE,
  near: LOOPBACK,
  dev,
  tls: pagesTls,
})

if (once) {
  for (const asked of ['/api/snapshot', '/ledger', '/settings', '/shelf'])
    await fetch(pages + asked).then((r) => r.arrayBuffer())
  end(0)
} else {
  if (!own) startStandIns()
  tell()
}

function startStandIns(): void {
  const shared = {
    cwd: project,
    detached: true,
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'] as ('ignore' | 'inherit' | 'ipc')[],
  }
  watch(
    fork(path.join(project, 'build/controller.mjs'), [], {
      ...shared,
      env: { ...inherited, NODE_ENV: 'production', VIVID_BROKER_URL: brokerUrl, VIVID_CONTROLLER_PASSWORD: controller },
    }),
    'stand-in controller',
  )
  watch(
    fork(path.join(project, 'build/boards.mjs'), [path.join(data, 'standins'), project], {
      ...shared,
      env: { ...inherited, NODE_ENV: 'production', VIVID_BROKER_URL: brokerUrl, VIVID_STANDIN_PASSWORD: standin },
    }),
    'simulated boards',
  )
}

function tell(): void {
  console.log(`\nVivid Node   http://${HOST}:${port}${pagesTls ? `, https://${HOST}:${pagesTls.port}` : ''}`)
  const link = globalThis.vividNode?.ready?.link
  const where = link ? `${link.address.host}:${link.address.port}` : `${HOST}:${mqttPort}`
  console.log(`broker       ${where}${link && !link.state.up ? `: ${link.state.why ?? 'down'}` : ''}`)
  if (!own) console.log(`outside login: outside ${outside}`)
  console.log('\nCtrl-C ends everything. Data is kept in', path.relative(project, data) || data)
}
