import type { Signal } from '../../core/model/design'
import { isGone, type Silence } from '../../core/publish/gone'
import { isOverdue } from '../../core/publish/payload'
import { fixed } from '../../core/units/format'
import type { Channel } from '../../core/catalog/part'
import type { NodeLive } from '../../wire/protocol'

export interface Now {
  value: string
  unit: string
  tone: 'value' | 'unknown' | 'never' | 'gone'
  /** How long ago, of a node that is gone. */
  age?: string
}

/** True for a node that was here and is not; `now` is the time of day, ms. */
export const goneNow = (live: NodeLive, now: number): boolean => now > 0 && isGone(silenceOf(live, ''), now / 1000)

export const silenceOf = ({ status, heardAt, health }: NodeLive, network: string): Silence => ({
  status,
  heardAtS: heardAt === null ? null : Date.parse(heardAt) / 1000,
  health,
  network,
})

/**
 * The latest value of a signal as it stands in the loom; of a node that is gone, what it was. `now` is the time of day,
 * ms.
 */
export function nowWords(signal: Signal, signalId: string, channel: Channel, live: NodeLive, now: number): Now {
  const words = lastWords(signal, signalId, channel, live, now)
  const last = live.values[signalId]
  if (!last || words.tone !== 'value' || channel.access === 'event' || !goneNow(live, now)) return words
  return {
    value: `was ${words.value}`,
    unit: words.unit,
    tone: 'gone',
    age: `${agoWords(now - Date.parse(last.at))} ago`,
  }
}

function lastWords(signal: Signal, signalId: string, channel: Channel, live: NodeLive, now: number): Now {
  const last = live.values[signalId]
  if (!last) return { value: channel.access === 'event' ? 'not yet' : 'never', unit: '', tone: 'never' }
  if (last.value === null) return { value: 'unknown', unit: '', tone: 'unknown' }
  if (typeof last.value === 'boolean' && channel.access === 'state')
    return { value: last.value ? channel.words.on : channel.words.off, unit: '', tone: 'value' }
  if (channel.access === 'output' && typeof last.value === 'boolean')
    return { value: last.value === true ? 'on' : 'off', unit: '', tone: 'value' }
  if (channel.access === 'event') return { value: agoWords(now - Date.parse(last.at)), unit: 'ago', tone: 'value' }
  return {
    value: typeof last.value === 'number' ? fixed(last.value, signal.publish.decimals) : String(last.value),
    unit: signal.publish.unit,
    tone: 'value',
  }
}

/** What a node says of itself, or what its silence means: `asleep until 16:40`, `gone: was to be back at 16:30`. */
export function statusWords({ status, heardAt }: NodeLive, now: number): string {
  if (!status) return 'not connected yet'
  if (status.is !== 'asleep') return status.is
  const heardS = heardAt === null ? 0 : Date.parse(heardAt) / 1000
  const back = new Date((status.back ?? heardS + status.for) * 1000).toLocaleTimeString('en-GB', {
    hour: '2-digit',
    minute: '2-digit',
  })
  return now > 0 && isOverdue(status, heardS, now / 1000) ? `gone: was to be back at ${back}` : `asleep until ${back}`
}

/** `3 s`, `12 min`, `5 h`, `2 days`. */
export function agoWords(ms: number): string {
  const s = Math.max(0, Math.round(ms / 1000))
  if (s < 90) return `${s} s`
  if (s < 5400) return `${Math.round(s / 60)} min`
  if (s < 129_600) return `${Math.round(s / 3600)} h`
  return `${Math.round(s / 86_400)} days`
}

/** `12 s ago`, or that a node was never heard. */
export const heardWords = ({ heardAt }: Pick<NodeLive, 'heardAt'>, now: number): string =>
  heardAt !== null && now > 0 ? `${agoWords(now - Date.parse(heardAt))} ago` : 'never'
