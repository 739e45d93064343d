import mqtt, { type MqttClient } from 'mqtt'
import type { EditBody } from '../../src/core/edits/edit'
import type { Design } from '../../src/core/model/design'
import { describe } from '../../src/core/publish/describe'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { addPart, after, blank, catalog } from './designs'
import { heldLine } from './heldLine'

/** What is the matter with a node. */
export const FAULTS = [
  'reading not kept',
  'event kept',
  'announced twice',
  'too slow',
  'text for a number',
  'silent signal',
  'leftover topic',
  'command kept',
  'swapped topics',
  'a thousand times too large',
  'a thousandth',
  'unit changes on the way',
  'unknown word',
  'unknown press',
  'no answer',
  'answers late commands',
  'takes anything',
  'acts twice',
  'no last will',
  'other identity after restart',
  'keeps its last value',
  'broken description',
  'topic nobody promised',
  'kept value is old',
] as const
export type Fault = (typeof FAULTS)[number]

const KEEP_ALIVE_S = 6
/** A node of four signals that says everything once a second: level, pump, press, door. */
export function wornDesign(): Design {
  const design = after(
    blank(),
    addPart('tank', 'ranger-echo'),
    addPart('relay', 'relay-module-low'),
    addPart('push', 'button-ground'),
    { ...addPart('reed', 'contact-reed'), signals: [{ id: 'sreed', channel: 'open' }] } as EditBody,
    addPart('warm', 'thermometer-one-wire'),
  )
  return {
    ...design,
    name: 'Clay yard',
    slug: 'clay-yard',
    network: { ...design.network, keepAliveS: KEEP_ALIVE_S },
    signals: Object.fromEntries(
      Object.entries(design.signals).map(([id, s]) => [id, { ...s, publish: { ...s.publish, intervalS: 1 } }]),
    ),
  }
}

/** A node written anew against the paper alone, speaking over real MQTT, with one thing the matter with it or none. */
export async function wornNode(
  { port, root }: { port: number; root: string },
  login: { username: string; password: string },
  fault: Fault | null,
) {
  const design = wornDesign()
  const base = `${root}/${design.slug}`
  const line = await heldLine(port)
  const slugOf = (access: string, unit = '') =>
    Object.values(design.signals).find((s) => {
      const kind = catalog.parts[design.parts[s.partId]?.kind ?? '']
      return (
        kind?.channels.find((c) => c.id === s.channel)?.access === access && (unit === '' || s.publish.unit === unit)
      )
    })?.slug ?? ''
  const names = {
    level: slugOf('reading', 'mm'),
    warm: slugOf('reading', '°C'),
    pump: slugOf('output'),
    press: slugOf('event'),
    door: slugOf('state'),
  }
  const is = (f: Fault) => fault === f
  let identity = design.id
  let pump = false
  let away: string | null = null
  let n = 0
  let client: MqttClient | null = null
  let timer: NodeJS.Timeout | null = null
  const answers = new Map<string, string>()
  const say = (leaf: string, text: string, retain = true) =>
    client?.publish(`${base}/${leaf}`, text, { retain, qos: 1 })
  const announce = () => {
    const td = describe({ ...design, id: identity }, NO_SURROUNDINGS, catalog, { host: '127.0.0.1', port, root })
    const text = is('broken description') ? JSON.stringify(td).slice(0, -40) : JSON.stringify(td)
    say('td', text)
    if (is('announced twice')) client?.publish(`${root}/old-yard/td`, text, { retain: true, qos: 1 })
    if (is('leftover topic')) client?.publish(`${base}/old-level`, '400', { retain: true, qos: 1 })
    if (is('command kept')) client?.publish(`${base}/${names.pump}/set`, 'true', { retain: true, qos: 1 })
  }
  const tellPump = () => say(names.pump, String(pump))
  const tick = () => {
    n += 1
    if (is('too slow') && n % 5 !== 1) return
    let level = 400 + n
    if (is('a thousand times too large')) level *= 1000
    if (is('unit changes on the way') && n % 2 === 0) level = 1000 * (399 + n)
    const texts: Record<string, string> = {
      [names.level]: is('a thousandth') ? String(level / 1000) : String(level),
      [names.warm]: (18 + (n % 5) / 10).toFixed(1),
      [names.door]: is('unknown word') ? '"ajar"' : 'true',
      [names.pump]: String(pump),
    }
    if (is('text for a number')) texts[names.level] = `"${level} mm"`
    if (is('silent signal')) delete texts[names.warm]
    if (is('swapped topics')) {
      texts[names.level] = 'true'
      texts[names.door] = String(level)
    }
    if (away !== null && away in texts && !is('keeps its last value')) texts[away] = 'null'
    for (const [leaf, text] of Object.entries(texts)) {
      const bare = leaf === names.level && (is('reading not kept') || (is('kept value is old') && n > 1))
      say(leaf, text, !bare)
    }
    if (is('event kept') && n === 1) say(names.press, '"single"')
    if (is('unknown press') && n > 1) say(names.press, '"quadruple"', false)
    if (is('topic nobody promised')) say('nivel', '400', false)
    say('health', JSON.stringify({ dbm: -60, uptimeS: n, freeB: 20000, supplyV: null, restart: 'power', revision: 1 }))
  }
  const command = (text: string) => {
    if (is('no answer')) return
    const said: unknown = JSON.parse(text)
    const body =
      typeof said === 'object' && said !== null
        ? (said as { value?: unknown; id?: string; until?: number })
        : { value: said }
    const id = body.id ?? null
    const done = (result: string, reason?: string) => {
      const answer = JSON.stringify({ id, result, ...(reason === undefined ? {} : { reason }) })
      if (id !== null) answers.set(id, answer)
      say(`${names.pump}/done`, answer, false)
    }
    const known = id === null ? undefined : answers.get(id)
    if (known !== undefined && !is('acts twice')) return void say(`${names.pump}/done`, known, false)
    if (body.until !== undefined && body.until < Date.now() / 1000 && !is('answers late commands'))
      return done('refused', 'it is too late')
    if (typeof body.value !== 'boolean')
      return is('takes anything') ? done('done') : done('refused', 'not true or false')
    pump = body.value
    tellPump()
    done('done')
  }
  const start = async () => {
    client = await mqtt.connectAsync(`mqtt://127.0.0.1:${line.port}`, {
      ...login,
      clientId: `worn-${root}`,
      keepalive: KEEP_ALIVE_S,
      reconnectPeriod: 0,
      ...(is('no last will')
        ? {}
        : {
            will: { topic: `${base}/status`, payload: Buffer.from('{"is":"offline"}'), qos: 1 as const, retain: true },
          }),
    })
    client.on('message', (topic, payload, { retain }) => {
      if (!retain && topic === `${base}/${names.pump}/set`) command(payload.toString())
    })
    client.on('error', () => undefined)
    await client.subscribeAsync(`${base}/+/set`, { qos: 1 })
    say('status', '{"is":"online"}')
    announce()
    tick()
    timer = setInterval(tick, 1000)
  }
  const halt = () => {
    if (timer) clearInterval(timer)
    client?.end(true)
  }
  await start()
  return {
    names,
    base,
    cut: () => {
      line.hold()
      return Promise.resolve(true)
    },
    restore: async () => {
      halt()
      line.free()
      await start()
      return true
    },
    restart: async () => {
      halt()
      if (is('other identity after restart')) identity = '11111111-2222-4333-8444-555555555555'
      await start()
      return true
    },
    takeAway: (topic: string) => {
      away = topic.split('/').pop() ?? null
      return Promise.resolve(true)
    },
    putBack: () => {
      away = null
    },
    end: async () => {
      halt()
      await line.end()
    },
  }
}
