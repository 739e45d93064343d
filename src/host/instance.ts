import path from 'node:path'
import { demo } from '../demo/demoHost'
import { FolderInUse, lockFolder } from '../server/db/folderLock'
import { tlsFrom } from '../server/broker/fromEnvironment'
import { exchange, keepExchange, undoExchange } from '../server/files/dataFolder'
import { outsideNames } from '../server/http/guard'
import { Product } from '../server/product'

// Pages and start-up code are separate module instances: what there must be one of lives on globalThis.
export interface Instance {
  starting: Promise<Product>
  ready: Product | null
  failed: string | null
  restoring: boolean
}

declare global {
  var vividNode: Instance | undefined
}

/** Starts the product; a database that has been put in place and does not start gives way to the one from before. */
async function begin(): Promise<Product> {
  const folder = dataFolder()
  try {
    const started = await start(folder)
    keepExchange(folder)
    return started
  } catch (e) {
    if (e instanceof FolderInUse || !undone(folder)) throw e
    const before = await start(folder)
    throw new ExchangeFailed(e instanceof Error ? e.message : String(e), before)
  }
}

/** The database put in place did not start; the product runs on the one from before. */
class ExchangeFailed extends Error {
  constructor(
    message: string,
    readonly product: Product,
  ) {
    super(message)
  }
}

function undone(folder: string): boolean {
  const release = lockFolder(folder)
  try {
    return undoExchange(folder)
  } finally {
    release()
  }
}

function dataFolder(): string {
  const project = process.cwd()
  return path.resolve(
    /* turbopackIgnore: true */ process.env.VIVID_DATA ?? path.join(/* turbopackIgnore: true */ project, 'data'),
  )
}

function start(folder: string): Promise<Product> {
  const {
    VIVID_HOST,
    VIVID_PASSPHRASE,
    MQTT_PORT,
    VIVID_OUTSIDE_PASSWORD,
    VIVID_CONTROLLER_PASSWORD,
    VIVID_STANDIN_PASSWORD,
  } = process.env
  const project = process.cwd()
  return Product.start({
    project,
    dataFolder: folder,
    host: VIVID_HOST || '127.0.0.1',
    reachedAs: outsideNames()[0],
    mqttPort: Number(MQTT_PORT ?? 1883),
    passphrase: VIVID_PASSPHRASE,
    tls: tlsFrom(process.env),
    brokerEnds: process.env.VIVID_BROKER_ENDS === '1',
    guest:
      VIVID_OUTSIDE_PASSWORD && VIVID_CONTROLLER_PASSWORD && VIVID_STANDIN_PASSWORD
        ? demo(project, folder, {
            outsidePassword: VIVID_OUTSIDE_PASSWORD,
            controllerPassword: VIVID_CONTROLLER_PASSWORD,
            standinPassword: VIVID_STANDIN_PASSWORD,
          })
        : null,
  })
}

/** Starts the product once per process. */
export function startProduct(): Promise<Product> {
  if (globalThis.vividNode) return globalThis.vividNode.starting
  const starting = begin().catch((e: unknown) => {
    if (e instanceof ExchangeFailed) return e.product
    throw e
  })
  const instance: Instance = { starting, ready: null, failed: null, restoring: false }
  globalThis.vividNode = instance
  follow(instance)
  return starting
}

function follow(instance: Instance): void {
  const { starting } = instance
  starting.then(
    (p) => {
      instance.ready = p
    },
    (e: unknown) => {
      instance.failed = e instanceof Error ? e.message : String(e)
    },
  )
}

/** The running product; waits while it starts. */
export function product(): Promise<Product> {
  return startProduct()
}

/**
 * Puts `database`, a whole database folder, in place of the one in use and goes on with it. The one before is kept
 * beside it; if the new one does not start, it is put back. Resolves to the name under which the one before is kept.
 */
export async function exchangeDatabase(database: string): Promise<string> {
  const instance = globalThis.vividNode
  if (!instance?.ready || instance.restoring)
    throw new Error('The product is not ready for this; try again in a moment.')
  instance.restoring = true
  const { dataFolder } = instance.ready.options
  const before = `database-before-${new Date().toISOString().replace(/[:.]/g, '-')}`
  const stopped = instance.ready
  instance.ready = null
  try {
    instance.starting = stopped.stop().then(async () => {
      try {
        exchange(dataFolder, database, before)
        return await begin()
      } catch (e) {
        instance.failed = `the backup did not start: ${e instanceof Error ? e.message : String(e)}`
        if (e instanceof ExchangeFailed) return e.product
        undoExchange(dataFolder)
        return begin()
      }
    })
    follow(instance)
    await instance.starting
    if (instance.failed) throw new Error(`${instance.failed}. What was there before is in use again.`)
    return before
  } finally {
    instance.failed = null
    instance.restoring = false
  }
}
