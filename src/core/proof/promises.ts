import { z } from 'zod'

/** What one topic promises. `what` is its place in the description. */
export interface Promised {
  topic: string
  name: string
  title: string
  what: 'reading' | 'state' | 'output' | 'event' | 'status' | 'health'
  retained: boolean
  /** Longest time from one message to the next, s; 0 promises none. */
  everyS: number
  /** Said when somebody does something far off: nothing may come of it for days. */
  seldom: boolean
  unit: string | null
  decimals: number | null
  min: number | null
  max: number | null
  /** JSON types it may have beside null. */
  types: string[]
  /** The only words it may say; null where it says no words. */
  words: string[] | null
  set: { topic: string; answer: string | null; types: string[]; min: number | null; max: number | null } | null
}

/** A thing as it announced itself on a topic. Times in s. */
export interface Thing {
  id: string
  title: string
  /** Topic of its description. */
  at: string
  /** What its topics begin with. */
  base: string
  /** It is told as gone this long after its last word; null where it does not say. */
  goneAfterS: number | null
  /** It sleeps, and is back this often. */
  wakesS: number | null
  promises: Promised[]
  /** Topics it says more on, which are nothing to a controller. */
  also: string[]
  /** It has no link of its own: others hear it and speak for it. */
  far: boolean
}

const dataSchema = z.looseObject({
  type: z.string().optional(),
  enum: z.array(z.string()).optional(),
  minimum: z.number().optional(),
  maximum: z.number().optional(),
})
const formSchema = z.looseObject({
  'mqv:controlPacket': z.enum(['subscribe', 'publish']),
  'mqv:filter': z.string().optional(),
  'mqv:topic': z.string().optional(),
  'mqv:retain': z.boolean().optional(),
})
const offeredSchema = dataSchema.extend({
  title: z.string().default(''),
  oneOf: z.array(dataSchema).optional(),
  data: dataSchema.optional(),
  unit: z.string().optional(),
  'vn:role': z.string().optional(),
  'vn:decimals': z.number().optional(),
  'vn:intervalS': z.number().optional(),
  'vn:endsS': z.number().optional(),
  'vn:answer': z.string().optional(),
  forms: z.array(formSchema),
})
const thingSchema = z.looseObject({
  id: z.string(),
  title: z.string(),
  'vn:goneAfterS': z.number().optional(),
  'vn:wakesS': z.number().optional(),
  'vn:also': z.array(z.string()).default([]),
  'vn:heardBy': z.array(z.string()).optional(),
  properties: z.record(z.string(), offeredSchema).default({}),
  events: z.record(z.string(), offeredSchema).default({}),
})
type Offered = z.infer<typeof offeredSchema>

/** What a description promises, read from its text alone; or why it promises nothing. */
export function promisesOf(at: string, text: string): Thing | { reason: string } {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    return { reason: `not JSON: “${text.slice(0, 40)}”` }
  }
  const parsed = thingSchema.safeParse(json)
  if (!parsed.success) {
    const [issue] = parsed.error.issues
    return { reason: `${issue?.path.join('.') ?? ''}: ${issue?.message ?? 'not a description'}` }
  }
  const { properties, events, ...thing } = parsed.data
  const promises = [
    ...Object.entries(properties).flatMap(([name, p]) => promised(name, p, false) ?? []),
    ...Object.entries(events).flatMap(([name, e]) => promised(name, e, true) ?? []),
  ]
  const base = at.replace(/\/[^/]*$/, '')
  return {
    id: thing.id,
    title: thing.title,
    at,
    base,
    goneAfterS: thing['vn:goneAfterS'] ?? null,
    wakesS: thing['vn:wakesS'] ?? null,
    // Of what is told by others the availability is theirs, and looked at there.
    promises: promises.filter((p) => p.what !== 'status' || p.topic.startsWith(`${base}/`)),
    also: thing['vn:also'],
    far: thing['vn:heardBy'] !== undefined,
  }
}

function promised(name: string, offered: Offered, event: boolean): Promised | null {
  const form = offered.forms.find((f) => f['mqv:controlPacket'] === 'subscribe')
  const topic = form?.['mqv:filter']
  if (topic === undefined) return null
  const schemas = [offered, ...(offered.oneOf ?? []), ...(offered.data ? [offered.data] : [])]
  const first = <T>(of: (s: z.infer<typeof dataSchema>) => T | undefined): T | null =>
    schemas.map(of).find((v) => v !== undefined) ?? null
  const set = offered.forms.find((f) => f['mqv:controlPacket'] === 'publish')?.['mqv:topic']
  const types = schemas.flatMap((s) => s.type ?? []).filter((t) => t !== 'null')
  const [min, max] = [first((s) => s.minimum), first((s) => s.maximum)]
  return {
    topic,
    name,
    title: offered.title || name,
    what: whatOf(offered, event, types, set !== undefined),
    retained: form?.['mqv:retain'] ?? false,
    everyS: event ? 0 : (offered['vn:intervalS'] ?? 0),
    seldom: offered['vn:endsS'] !== undefined,
    unit: offered.unit ?? null,
    decimals: offered['vn:decimals'] ?? null,
    min,
    max,
    types,
    words: first((s) => s.enum),
    set: set === undefined ? null : { topic: set, answer: offered['vn:answer'] ?? null, types, min, max },
  }
}

function whatOf(offered: Offered, event: boolean, types: string[], settable: boolean): Promised['what'] {
  if (offered['vn:role'] === 'availability') return 'status'
  if (offered['vn:role'] === 'diagnostic' && types.includes('object')) return 'health'
  if (event) return 'event'
  if (settable) return 'output'
  return types.includes('number') ? 'reading' : 'state'
}
