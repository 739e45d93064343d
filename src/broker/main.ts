import { randomBytes, randomUUID, scryptSync } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { z } from 'zod'
import {
  type Ask,
  askSchema,
  brokerAccess,
  type BrokerAccess,
  brokerLogin,
  type BrokerLogin,
  CONTROL_VERSION,
  PRODUCT,
  type Running,
  runningSchema,
} from '../wire/brokerControl'
import { lockFolder } from '../server/db/folderLock'
import { writeForGood } from '../server/files/flush'
import { startOf } from '../server/files/startOf'
import { type Broker, startBroker } from './broker'
import { command } from './command'
import { KeptMessages } from './keptMessages'
import { LoginCheck } from './loginCheck'
import { Tidings } from './tidings'

// The broker's process: it goes on when the product stops, crashes or is put in place anew. `run OPTIONS` is how it is
// started; what it cannot do it says on its last line. Any other word is a command about it.
const optionsSchema = runningSchema
  .pick({ host: true, port: true, root: true, tls: true })
  .extend({ folder: z.string(), ends: z.boolean() })

const FOLDER_LOOK_MS = 5000

const [, , what, text = '{}'] = process.argv
if (what !== 'run') process.exit(await command(what).catch(said))

const options = optionsSchema.parse(JSON.parse(text))
const fileOf = (name: string) => path.join(options.folder, name)

/** A file of ours, or what stands for it where there is none. */
function read<T>(name: string, schema: z.ZodType<T>, none: T): T {
  if (!fs.existsSync(fileOf(name))) return none
  return schema.parse(JSON.parse(fs.readFileSync(fileOf(name), 'utf8')))
}

function own(): { id: string; password: string } {
  const none = { id: randomUUID(), password: randomBytes(24).toString('base64url') }
  const kept = read('product.json', z.object({ id: z.string(), password: z.string() }), none)
  if (kept === none) writeForGood(fileOf('product.json'), JSON.stringify(kept))
  return kept
}

function productLogin(password: string): BrokerLogin {
  const salt = randomBytes(16).toString('hex')
  const hash = scryptSync(password, salt, 32).toString('hex')
  return { name: PRODUCT.login, role: 'product', node: null, salt, hash, nextSalt: null, nextHash: null }
}

async function run(): Promise<void> {
  // Before anything of it is read: a second one would write anew what the first still adds to.
  const release = lockFolder(options.folder)
  const { id, password } = own()
  const me = productLogin(password)
  const logins = new LoginCheck([...read('logins.json', z.array(brokerLogin), []), me])
  let access: BrokerAccess = read('access.json', brokerAccess, {})
  const store = new KeptMessages(options.folder)
  let broker: Broker | null = null
  const tidings = new Tidings(() => broker)

  const perform = async (ask: Ask): Promise<void> => {
    switch (ask.do) {
      case 'logins':
        writeForGood(fileOf('logins.json'), JSON.stringify(ask.logins))
        return logins.put([...ask.logins, me])
      case 'access':
        writeForGood(fileOf('access.json'), JSON.stringify(ask.access))
        access = ask.access
        return
      case 'cut-off':
        return broker?.cutOff(ask.login)
      case 'tell':
        tidings.all({ broker: id, version: CONTROL_VERSION, store })
        return
      case 'end':
        return void end()
    }
  }
  const onAsk = async (text: string): Promise<void> => {
    let asked = ''
    try {
      const ask = askSchema.parse(JSON.parse(text))
      asked = ask.id
      await perform(ask)
      broker?.say({ kind: 'done', id: asked, why: null })
    } catch (e) {
      broker?.say({ kind: 'done', id: asked, why: e instanceof Error ? e.message : String(e) })
    }
  }

  broker = await startBroker({
    ...options,
    logins,
    store,
    access: () => access,
    onRefused: (topic, what) => tidings.refused(topic, what),
    onNode: (node, here) => broker?.say({ kind: 'node', node, here }),
    onAsk,
  })

  let ending = false
  async function end(): Promise<void> {
    if (ending) return
    ending = true
    tidings.stop()
    await broker?.close()
    await store.end()
    fs.rmSync(fileOf('running.json'), { force: true })
    release()
    process.exit(0)
  }
  process.once('SIGTERM', () => void end())
  process.on('SIGINT', () => undefined)
  // Files that are gone for good, as after a data folder was thrown away, are nothing to go on for.
  setInterval(() => !fs.existsSync(options.folder) && void end(), FOLDER_LOOK_MS)
  if (options.ends) process.stdin.once('close', () => void end()).resume()

  const { host, port, root, tls } = options
  const running: Running = {
    pid: process.pid,
    started: startOf(process.pid) ?? '',
    version: CONTROL_VERSION,
    host,
    port,
    root,
    tls,
  }
  writeForGood(fileOf('running.json'), JSON.stringify(running))
}

await run().catch((e: unknown) => process.exit(said(e)))

function said(e: unknown): number {
  console.error(e instanceof Error ? e.message : String(e))
  return 1
}
