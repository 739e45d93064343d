import type { Heard } from '../core/proof/heard'

/** How a broker is reached. */
export interface BrokerLogin {
  url: string
  username?: string
  password?: string
  /** Certificate of whoever signed the broker's, PEM. */
  ca?: Buffer
}

/** A connection for the time of a proof. */
export interface BrokerLine {
  publish: (topic: string, payload: string, retain?: boolean) => Promise<void>
  /** Everything retained below a root, as the broker gives it to somebody who comes just now. */
  kept: (root: string) => Promise<Map<string, string>>
  close: () => Promise<void>
}

/** So long without another retained message, and the broker has given all it has, ms. */
const QUIET_MS = 400
const CONNECT_MS = 10_000

/** Listens to everything below `root` from now on. Rejects with what the broker said. */
export async function joinBroker(
  login: BrokerLogin,
  root: string,
  hear: (message: Heard) => void,
  lost: (why: string) => void,
): Promise<BrokerLine> {
  const { default: mqtt } = await import('mqtt')
  const options = {
    username: login.username,
    password: login.password,
    ca: login.ca,
    reconnectPeriod: 0,
    connectTimeout: CONNECT_MS,
  }
  const client = await mqtt.connectAsync(login.url, options)
  client.on('message', (topic, payload, { retain }) =>
    hear({ topic, text: payload.toString(), retain, atS: performance.now() / 1000 }),
  )
  let ended = false
  client.on('close', () => {
    if (!ended) lost('the connection to the broker ended')
  })
  const [granted] = await client.subscribeAsync(`${root}/#`, { qos: 1 })
  if (granted && granted.qos > 2) throw new Error(`this login may not hear ${root}/#`)
  return {
    publish: async (topic, payload, retain = false) => {
      await client.publishAsync(topic, payload, { qos: 1, retain })
    },
    kept: async () => {
      const other = await mqtt.connectAsync(login.url, options)
      const found = new Map<string, string>()
      let last = Date.now()
      other.on('message', (topic, payload, { retain }) => {
        if (!retain) return
        last = Date.now()
        found.set(topic, payload.toString())
      })
      await other.subscribeAsync(`${root}/#`, { qos: 1 })
      last = Math.max(last, Date.now())
      while (Date.now() - last < QUIET_MS) await new Promise((r) => setTimeout(r, 50))
      await other.endAsync()
      return found
    },
    close: async () => {
      ended = true
      await client.endAsync()
    },
  }
}
