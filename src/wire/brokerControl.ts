import { z } from 'zod'

/**
 * What product and embedded broker say to one another beside messages. The product asks on `ASK`, the broker answers
 * and tells on `SAID`; nobody else may do either. Another number here means that one of them is of another release and
 * the broker is started anew.
 */
export const CONTROL_VERSION = 2
export const ASK = '$control/ask'
export const SAID = '$control/said'
/** Login and client id of the product at its own broker. */
export const PRODUCT = { login: 'product', client: 'vivid-node' } as const

export const roles = ['node', 'gateway', 'controller', 'reader', 'guest', 'product', 'standin'] as const
export type Role = (typeof roles)[number]

export const brokerLogin = z.strictObject({
  name: z.string().min(1).max(200),
  role: z.enum(roles),
  /** Id of the node whose login it is. */
  node: z.string().nullable(),
  salt: z.string(),
  /** scrypt of the password, 32 bytes in hex. */
  hash: z.string(),
  nextSalt: z.string().nullable(),
  nextHash: z.string().nullable(),
})
export type BrokerLogin = z.infer<typeof brokerLogin>

/** Filters of what somebody may publish and hear: by node id, or by name for a login that is no node's. */
export const brokerAccess = z.record(
  z.string(),
  z.strictObject({ publish: z.array(z.string()), hear: z.array(z.string()) }),
)
export type BrokerAccess = z.infer<typeof brokerAccess>

export const askSchema = z.intersection(
  z.object({ id: z.string() }),
  z.discriminatedUnion('do', [
    z.object({ do: z.literal('logins'), logins: z.array(brokerLogin) }),
    z.object({ do: z.literal('access'), access: brokerAccess }),
    z.object({ do: z.literal('cut-off'), login: z.string() }),
    /** How it stands, and what is retained. */
    z.object({ do: z.literal('tell') }),
    z.object({ do: z.literal('end') }),
  ]),
)
export type Ask = z.infer<typeof askSchema>

/** Messages for the product that could not be kept: how many since when, ISO 8601. */
const lostSchema = z.object({ messages: z.number(), since: z.string() })
/** A controller or guest that is connected: since when, ISO 8601, and what it has asked to hear. */
const listener = z.object({ since: z.string(), filters: z.array(z.string()) })
export type Listener = z.infer<typeof listener>
const counts = {
  clients: z.number(),
  connections: z.record(z.string(), z.number()),
  listeners: z.record(z.string(), listener),
}

export const saidSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('done'), id: z.string(), why: z.string().nullable() }),
  z.object({
    kind: z.literal('state'),
    version: z.number(),
    /** Of this folder of the broker: numbers of messages are its own. */
    broker: z.string(),
    /** It has kept nothing yet. */
    fresh: z.boolean(),
    /** Ids of nodes that are connected. */
    nodes: z.array(z.string()),
    lost: lostSchema.nullable(),
    ...counts,
  }),
  z.object({
    kind: z.literal('retained'),
    messages: z.array(
      z.object({ topic: z.string(), payload: z.string(), qos: z.union([z.literal(0), z.literal(1), z.literal(2)]) }),
    ),
  }),
  z.object({
    kind: z.literal('refused'),
    refused: z.array(z.object({ topic: z.string(), what: z.string() })),
    /** Beside those told. */
    more: z.number(),
  }),
  z.object({ kind: z.literal('node'), node: z.string(), here: z.boolean() }),
  z.object({ kind: z.literal('lost'), lost: lostSchema }),
  z.object({ kind: z.literal('counts'), ...counts }),
])
export type Said = z.infer<typeof saidSchema>

/** What the broker knows of a message and its topic does not say. */
export interface Origin {
  /** Login of who published it. */
  from: string
  /** When it came, ms. */
  at: number
  retain: boolean
  /** Its number among those kept for the product; 0 for one that is not. */
  n: number
}

const MARK = '$from/'

/** The topic under which the product gets a message: who, when, whether kept and its number, then the topic itself. */
export function withOrigin(topic: string, { from, at, retain, n }: Origin): string {
  return `${MARK}${encodeURIComponent(from)}/${retain ? 'r' : 'm'}${at.toString(36)}/${n.toString(36)}/${topic}`
}

/** What stands before a topic, and the topic itself; null for a plain one. */
export function originOf(marked: string): { topic: string; origin: Origin } | null {
  if (!marked.startsWith(MARK)) return null
  const from = marked.indexOf('/', MARK.length)
  const at = marked.indexOf('/', from + 1)
  const n = marked.indexOf('/', at + 1)
  if (from < 0 || at < 0 || n < 0) return null
  return {
    topic: marked.slice(n + 1),
    origin: {
      from: decodeURIComponent(marked.slice(MARK.length, from)),
      retain: marked[from + 1] === 'r',
      at: parseInt(marked.slice(from + 2, at), 36),
      n: parseInt(marked.slice(at + 1, n), 36),
    },
  }
}

/** How a running broker is found: `running.json` in its folder. */
export const runningSchema = z.object({
  pid: z.number(),
  /** Start of the process as the system counts it. */
  started: z.string(),
  version: z.number(),
  host: z.string(),
  port: z.number(),
  root: z.string(),
  /** Listener with the user's certificate, and which state of its files is in use. */
  tls: z.object({ port: z.number(), certFile: z.string(), keyFile: z.string(), of: z.string() }).nullable(),
})
export type Running = z.infer<typeof runningSchema>
