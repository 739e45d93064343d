import mqtt from 'mqtt'
import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { ToldControllers } from './told'

/**
 * A house controller that knows nothing but the announcements it finds: it lists an entity for everything a Thing
 * Description offers, follows its values, and sends commands as the description says. What it lists it also publishes,
 * so that people and tests can see what a controller sees.
 */
const url = process.env.VIVID_BROKER_URL
const password = process.env.VIVID_CONTROLLER_PASSWORD
if (!url || !password) {
  console.error('usage: VIVID_BROKER_URL=… VIVID_CONTROLLER_PASSWORD=… controller')
  process.exit(2)
}
process.on('disconnect', () => process.exit(0))

const formSchema = z.looseObject({
  op: z.union([z.string(), z.array(z.string())]),
  'mqv:controlPacket': z.enum(['subscribe', 'publish']),
  'mqv:filter': z.string().optional(),
  'mqv:topic': z.string().optional(),
})
const affordance = z.looseObject({
  title: z.string(),
  type: z.string().optional(),
  unit: z.string().optional(),
  'vn:role': z.string().optional(),
  'vn:quantity': z.string().optional(),
  'vn:decimals': z.number().optional(),
  forms: z.array(formSchema),
})
const thingSchema = z.looseObject({
  id: z.string(),
  title: z.string(),
  'vn:area': z.string().optional(),
  'vn:groups': z.array(z.looseObject({ title: z.string(), parts: z.record(z.string(), z.string()) })).default([]),
  properties: z.record(z.string(), affordance).default({}),
  events: z.record(z.string(), affordance).default({}),
})

interface Entity {
  id: string
  thing: string
  name: string
  area: string
  kind: 'value' | 'switch' | 'setting' | 'event' | 'diagnostic' | 'availability'
  unit: string | null
  value: unknown
  at: string | null
  available: boolean
  filter: string
  command: string | null
}

const entities = new Map<string, Entity>()
const announcedOn = new Map<string, string>()
const client = mqtt.connect(url, { username: 'controller', password, clientId: 'controller', reconnectPeriod: 1000 })
let dirty = false
const told = new ToldControllers(client)

client.on('connect', () => {
  told.begin()
  client.subscribe('+/+/td', { qos: 1 })
  client.subscribe('standin/controller/do', { qos: 1 })
  const filters = [...new Set([...entities.values()].map((e) => e.filter))]
  if (filters.length > 0) client.subscribe(filters, { qos: 1 })
})
client.on('error', (e) => console.error(`controller: ${e.message}`))
client.on('message', (topic, payload) => {
  const text = payload.toString()
  if (topic === 'standin/controller/do') command(text)
  else if (topic.endsWith('/td')) announce(topic, text)
  else if (/^(panel|hub)\//.test(topic)) return
  else follow(topic, text)
})
setInterval(() => {
  if (!dirty || !client.connected) return
  dirty = false
  client.publish('standin/controller/entities', JSON.stringify([...entities.values()]), { retain: true, qos: 1 })
}, 250)

function announce(topic: string, text: string): void {
  dirty = true
  if (text === '') return withdrawn(topic)
  const parsed = thingSchema.safeParse(readJson(text))
  if (!parsed.success)
    return console.error(`controller: ${topic} is no description: ${parsed.error.issues[0]?.message}`)
  const thing = parsed.data
  announcedOn.set(topic, thing.id)
  const before = new Map([...entities].filter(([, e]) => e.thing === thing.id))
  forget(thing.id)
  const offered = [
    ...Object.entries(thing.properties).map((p) => [...p, false] as const),
    ...Object.entries(thing.events).map((p) => [...p, true] as const),
  ]
  for (const [name, a, event] of offered) {
    const filter = a.forms.find((f) => f['mqv:controlPacket'] === 'subscribe')?.['mqv:filter']
    const command = a.forms.find((f) => f['mqv:controlPacket'] === 'publish')?.['mqv:topic'] ?? null
    if (filter === undefined) continue
    const id = `${thing.id}/${name}`
    const old = before.get(id)
    entities.set(id, {
      id,
      thing: thing.id,
      name: groupedName(thing, name) ?? `${thing.title} ${a.title}`,
      area: thing['vn:area'] ?? '',
      kind: kindOf(a['vn:role'], event, command === null ? null : a.type),
      unit: a.unit ?? null,
      value: old?.value ?? null,
      at: old?.at ?? null,
      available: old?.available ?? false,
      filter,
      command,
    })
    client.subscribe(filter, { qos: 1 })
  }
}

function withdrawn(topic: string): void {
  const thing = announcedOn.get(topic)
  announcedOn.delete(topic)
  // A thing that has been announced on another topic since has only moved: it stays.
  if (thing !== undefined && ![...announcedOn.values()].includes(thing)) forget(thing)
}

/** What belongs to one entity with parts goes by its name and the part it is. */
function groupedName(thing: z.infer<typeof thingSchema>, name: string): string | null {
  for (const { title, parts } of thing['vn:groups'])
    for (const [role, of] of Object.entries(parts)) if (of === name) return `${title} ${role}`
  return null
}

/** What the controller takes it for; `commanded` is the type of what may be sent to it, null where nothing may. */
function kindOf(role: string | undefined, event: boolean, commanded: string | null | undefined): Entity['kind'] {
  if (role === 'availability' || role === 'diagnostic') return role
  if (event) return 'event'
  if (commanded === null) return 'value'
  return commanded === 'boolean' ? 'switch' : 'setting'
}

function forget(thing: string): void {
  for (const [id, e] of entities) if (e.thing === thing) entities.delete(id)
}

function follow(topic: string, text: string): void {
  const value = readJson(text)
  for (const e of entities.values()) {
    if (e.filter !== topic) continue
    e.value = value
    e.at = new Date().toISOString()
    if (e.kind === 'availability') {
      const online = typeof value === 'object' && value !== null && 'is' in value && value.is !== 'offline'
      for (const other of entities.values()) if (other.thing === e.thing) other.available = online
    }
    dirty = true
  }
}

function command(text: string): void {
  const wish = z
    .strictObject({ entity: z.string(), value: z.json(), id: z.string().optional() })
    .safeParse(readJson(text))
  if (!wish.success) return console.error(`controller: not understood: ${text.slice(0, 80)}`)
  const topic = entities.get(wish.data.entity)?.command
  if (!topic) return console.error(`controller: ${wish.data.entity} takes no commands`)
  client.publish(topic, JSON.stringify({ value: wish.data.value, id: wish.data.id ?? randomUUID() }), { qos: 1 })
}

function readJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}
