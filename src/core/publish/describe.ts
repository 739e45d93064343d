import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import { type Design, inOrder, type Signal } from '../model/design'
import { ucum } from '../units/convert'
import type { Surroundings } from '../surroundings/surroundings'
import { channelOf } from './channelOf'
import { groupTold, offeredGroups } from './groups'
import { publishedRange } from './publishedRange'
import { goneAfterS } from './staleness'
import { shiftOf } from './shiftOf'
import { toldBy } from './toldBy'
import { topicsOf } from './topics'

export interface BrokerAddress {
  host: string
  port: number
  root: string
  /** Where it is reached through TLS, and the SHA-256 of its certificate in hex. */
  secure?: { port: number; print: string }
}

/** An address in numbers; anything else is a name somebody has to look up. */
export const numericHost = (host: string): boolean => /^\d{1,3}(\.\d{1,3}){3}$/.test(host)

type Json = null | boolean | number | string | Json[] | { [key: string]: Json }
export type ThingDescription = { [key: string]: Json }

const MQV = 'http://www.w3.org/2018/wot/mqtt#'
const OWN = 'urn:vivid-node:terms#'
/** What the words of a description mean. */
export const CONTEXT: Json = ['https://www.w3.org/2022/wot/td/v1.1', { mqv: MQV, vn: OWN }]

/** The property that tells whether a thing is there, told on these forms. */
export const availability = (forms: Json[]): Json => ({
  title: 'availability',
  'vn:role': 'availability',
  type: 'object',
  readOnly: true,
  observable: true,
  properties: { is: { type: 'string', enum: ['online', 'offline', 'asleep'] } },
  required: ['is'],
  forms,
})

/** The node as a W3C Thing Description 1.1 with forms of the MQTT binding. Carries no password. */
export function describe(
  design: Design,
  around: Surroundings,
  catalog: Catalog,
  broker: BrokerAddress,
): ThingDescription {
  const topics = topicsOf(broker.root, design.slug)
  const href = `mqtt://${broker.host}:${broker.port}`
  const form = { href, contentType: 'application/json' }
  const subscribe = (op: string, filter: string, qos: '0' | '1', retain: boolean): Json => ({
    ...form,
    op,
    'mqv:controlPacket': 'subscribe',
    'mqv:filter': filter,
    'mqv:qos': qos,
    'mqv:retain': retain,
  })
  const send = (op: string, topic: string): Json => ({
    ...form,
    op,
    'mqv:controlPacket': 'publish',
    'mqv:topic': topic,
    'mqv:qos': '1',
    'mqv:retain': false,
  })

  const properties: { [key: string]: Json } = {}
  const events: { [key: string]: Json } = {}
  const actions: { [key: string]: Json } = {}
  const groups = offeredGroups(design)
  const others = inOrder(design.signals)
    .filter(({ value }) => !value.publish.entity)
    .map(({ value }) => topics.signal(value.slug))
  for (const { id, value: signal } of inOrder(design.signals)) {
    const channel = channelOf(design, catalog, signal)
    if (!channel || !signal.publish.entity) continue
    const group = groups.find((g) => Object.values(g.roles).includes(id))
    const own = {
      title: signal.name,
      'vn:tag': signal.tag,
      'vn:quantity': channel.quantity,
      'vn:role': signal.publish.role,
      ...(group === undefined ? {} : { 'vn:group': group.id }),
    }
    const topic = topics.signal(signal.slug)
    if (channel.access === 'reading') {
      const unit = ucum[signal.publish.unit]
      properties[signal.slug] = {
        ...own,
        ...(unit === undefined ? {} : { unit }),
        'vn:decimals': signal.publish.decimals,
        'vn:intervalS': signal.publish.intervalS,
        oneOf: [{ type: 'number', ...range(channel, signal) }, { type: 'null' }],
        readOnly: true,
        observable: true,
        forms: [subscribe('observeproperty', topic, '0', true)],
      }
    } else if (channel.access === 'state') {
      properties[signal.slug] = {
        ...own,
        ...(channel.told ? {} : { 'vn:words': { true: channel.words.on, false: channel.words.off } }),
        'vn:intervalS': signal.publish.intervalS,
        oneOf: [channel.told ? { type: 'string', enum: channel.told } : { type: 'boolean' }, { type: 'null' }],
        readOnly: true,
        observable: true,
        forms: [subscribe('observeproperty', topic, '1', true)],
      }
      const shift = shiftOf(design, catalog, signal)
      if (shift)
        actions[`${signal.slug}-shift`] = {
          title: `${signal.name}: shift its threshold`,
          input: { type: 'number', minimum: -shift.most, maximum: shift.most, ...shift.unit },
          idempotent: true,
          'vn:answer': topics.done(signal.slug),
          forms: [send('invokeaction', topics.set(signal.slug))],
        }
    } else if (channel.access === 'output') {
      properties[signal.slug] = {
        ...own,
        ...OUTPUT_VALUE[channel.value],
        readOnly: false,
        observable: true,
        'vn:intervalS': signal.publish.intervalS,
        'vn:answer': topics.done(signal.slug),
        forms: [subscribe('observeproperty', topic, '1', true), send('writeproperty', topics.set(signal.slug))],
      }
    } else {
      events[signal.slug] = {
        ...own,
        data: {
          type: 'string',
          enum: [...toldBy(channel.driver, signal.conditioning.patterns)],
        },
        forms: [subscribe('subscribeevent', topic, '1', false)],
      }
    }
  }
  properties.status = availability([subscribe('observeproperty', topics.status, '1', true)])
  properties.health = {
    title: 'health',
    'vn:role': 'diagnostic',
    type: 'object',
    readOnly: true,
    observable: true,
    properties: {
      dbm: { oneOf: [{ type: 'number' }, { type: 'null' }], unit: 'dB[mW]' },
      uptimeS: { type: 'number', unit: 's' },
      freeB: { type: 'number', unit: 'By' },
      supplyV: { oneOf: [{ type: 'number' }, { type: 'null' }], unit: 'V' },
      restart: { type: 'string' },
      revision: { type: 'integer' },
    },
    forms: [subscribe('observeproperty', topics.health, '0', true)],
  }
  return {
    '@context': CONTEXT,
    id: `urn:uuid:${design.id}`,
    title: design.name,
    'vn:node': design.slug,
    'vn:area': around.place ?? '',
    ...(others.length > 0 ? { 'vn:also': others } : {}),
    'vn:goneAfterS': goneAfterS(design.network.keepAliveS),
    ...(design.sleep ? { 'vn:wakesS': design.sleep.everyS } : {}),
    ...(groups.length > 0 ? { 'vn:groups': groups.map((g) => groupTold(design, g)) } : {}),
    securityDefinitions: { login: { scheme: 'basic', in: 'auto' } },
    security: 'login',
    properties,
    ...(Object.keys(events).length > 0 ? { events } : {}),
    ...(Object.keys(actions).length > 0 ? { actions } : {}),
  }
}

/** Numbers it can be published as, in its unit; those of a curve that says nothing at an end are left open. */
function range(channel: Extract<Channel, { access: 'reading' }>, signal: Signal): { [key: string]: Json } {
  const { min, max } = publishedRange(channel, signal)
  return Number.isFinite(min) && Number.isFinite(max) ? { minimum: min, maximum: max } : {}
}

/** Data schema of what an output takes. */
const OUTPUT_VALUE: Record<Extract<Channel, { access: 'output' }>['value'], { [key: string]: Json }> = {
  'on-off': { type: 'boolean' },
  percent: { type: 'number', minimum: 0, maximum: 100, unit: '%' },
  text: { type: 'string', maxLength: 200 },
  colour: { type: 'string', pattern: '^#[0-9a-fA-F]{6}$' },
}
