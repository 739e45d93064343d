import { beyond, type Try, triesFor } from '../core/publish/mayAlso'
import type { AccessOf } from '../core/publish/accessText'
import type { BrokerLogin } from './brokerLine'

/** So long is waited for what should not come, ms. */
const COMES_MS = 1200

export interface MayAlso {
  /** The login itself came in; otherwise why not. */
  came: string | null
  also: Try[]
  /** Filters it should hear and is refused. */
  lacks: string[]
  /** Somebody without a login comes in. */
  anybody: boolean
}

/**
 * Tries at a live broker what a login may beyond its rights, on topics nobody has; `watcher` is a login that hears and
 * says everything. Rejects when the watcher cannot come in.
 */
export async function mayAlso(
  watcher: BrokerLogin,
  tried: BrokerLogin,
  of: AccessOf,
  root: string,
  slug: string,
): Promise<MayAlso> {
  const { default: mqtt } = await import('mqtt')
  const join = (login: Omit<BrokerLogin, 'url'>) =>
    mqtt.connectAsync(watcher.url, { ...login, reconnectPeriod: 0, connectTimeout: 8000 })
  const anybody = await join({ ca: watcher.ca }).then(
    async (c) => {
      await c.endAsync(true)
      return true
    },
    () => false,
  )
  const sees = await join(watcher)
  try {
    const client = await join(tried).catch((e: unknown) => (e instanceof Error ? e.message : String(e)))
    if (typeof client === 'string') return { came: client, also: [], lacks: [], anybody }
    const [seen, heard] = [new Set<string>(), new Set<string>()]
    sees.on('message', (topic) => seen.add(topic))
    client.on('message', (topic) => heard.add(topic))
    // A broker may end the connection of whoever does what it may not.
    client.on('error', () => undefined)
    await sees.subscribeAsync([`${root}/${slug}/#`, `${slug}/#`], { qos: 1 })
    const asked = await client.subscribeAsync([...new Set(['#', `${root}/#`, ...of.hear])], { qos: 0 }).catch(() => [])
    const lacks = of.hear.filter((f) => asked.some((g) => g.topic === f && g.qos > 2))
    const tries = triesFor(root, slug)
    for (const t of tries)
      if (t.does === 'publishes') await client.publishAsync(t.topic, 'probe', { qos: 0 }).catch(() => undefined)
    await new Promise((r) => setTimeout(r, COMES_MS))
    const published = tries.filter((t) => t.does === 'publishes' && seen.has(t.topic))
    heard.clear()
    for (const t of tries) if (t.does === 'hears') await sees.publishAsync(t.topic, 'probe', { qos: 0 })
    await new Promise((r) => setTimeout(r, COMES_MS))
    const through = [...published, ...tries.filter((t) => t.does === 'hears' && heard.has(t.topic))]
    await client.endAsync(true)
    return { came: null, also: beyond(of, through), lacks, anybody }
  } finally {
    await sees.endAsync(true)
  }
}
