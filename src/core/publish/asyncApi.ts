import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../model/design'
import type { Surroundings } from '../surroundings/surroundings'
import { ucum } from '../units/convert'
import { channelOf } from './channelOf'
import type { BrokerAddress } from './describe'
import { commandSchema, DONE_SCHEMA, type JsonSchema, outputSchema, OWN_SCHEMAS, valueSchema } from './payloadSchemas'
import { shiftOf } from './shiftOf'
import { topicsOf } from './topics'

const BINDING = '0.2.0'
/** One topic of a node: who sends there, how, and what. */
export interface TopicContract {
  /** Key in the document. */
  key: string
  topic: string
  title: string
  /** `send`: the node publishes there; `receive`: it listens. */
  action: 'send' | 'receive'
  qos: 0 | 1
  retain: boolean
  schema: JsonSchema
  unit?: string
  /** Key of the topic that is answered on. */
  answers?: string
}

/** Every topic of a node with its payload, whether its signals are offered as entities or not. */
export function contractOf(design: Design, catalog: Catalog, root: string): TopicContract[] {
  const topics = topicsOf(root, design.slug)
  const own = (key: keyof typeof OWN_SCHEMAS, title: string, qos: 0 | 1, retain: boolean): TopicContract => ({
    key: `node-${key}`,
    topic: topics[key],
    title,
    action: 'send',
    qos,
    retain,
    schema: OWN_SCHEMAS[key],
  })
  return [
    own('status', 'availability', 1, true),
    own('health', 'health', 0, true),
    own('td', 'W3C Thing Description', 0, true),
    own('config', 'file in force', 1, true),
    own('fault', 'trouble nobody asked about', 1, false),
    ...inOrder(design.signals).flatMap(({ value: signal }): TopicContract[] => {
      const channel = channelOf(design, catalog, signal)
      if (!channel) return []
      const { slug } = signal
      const unit = channel.access === 'reading' ? ucum[signal.publish.unit] : undefined
      const takes = takenBy(design, catalog, signal, channel)
      return [
        {
          key: slug,
          topic: topics.signal(slug),
          title: signal.name,
          action: 'send',
          qos: channel.access === 'reading' ? 0 : 1,
          retain: channel.access !== 'event',
          schema: valueSchema(channel, signal),
          ...(unit === undefined ? {} : { unit }),
        },
        ...(takes === null
          ? []
          : [
              {
                key: `${slug}-set`,
                topic: topics.set(slug),
                title: `${signal.name}: command`,
                action: 'receive' as const,
                qos: 1 as const,
                retain: false,
                schema: commandSchema(takes),
                answers: `${slug}-done`,
              },
              {
                key: `${slug}-done`,
                topic: topics.done(slug),
                title: `${signal.name}: answer`,
                action: 'send' as const,
                qos: 1 as const,
                retain: false,
                schema: DONE_SCHEMA,
              },
            ]),
      ]
    }),
  ]
}

function takenBy(
  design: Design,
  catalog: Catalog,
  signal: Design['signals'][string],
  channel: NonNullable<ReturnType<typeof channelOf>>,
): JsonSchema | null {
  if (channel.access === 'output') return outputSchema(channel)
  const shift = channel.access === 'state' ? shiftOf(design, catalog, signal) : null
  return shift === null ? null : { type: 'number', minimum: -shift.most, maximum: shift.most }
}

/** The node as an AsyncAPI 3.0 document, from its own side: `send` is what it publishes. Carries no password. */
export function asyncApi(design: Design, around: Surroundings, catalog: Catalog, broker: BrokerAddress): JsonSchema {
  const contract = contractOf(design, catalog, broker.root)
  const channel = (key: string) => ({ $ref: `#/channels/${key}` })
  const message = (key: string) => ({ $ref: `#/channels/${key}/messages/value` })
  return {
    asyncapi: '3.0.0',
    id: `urn:uuid:${design.id}`,
    info: {
      title: design.name,
      version: '1.0.0',
      ...(around.place === null ? {} : { description: `In ${around.place}.` }),
    },
    defaultContentType: 'application/json',
    servers: {
      broker: {
        host: `${broker.host}:${broker.port}`,
        protocol: 'mqtt',
        protocolVersion: '3.1.1',
        security: [{ $ref: '#/components/securitySchemes/login' }],
        bindings: {
          mqtt: {
            cleanSession: true,
            keepAlive: design.network.keepAliveS,
            lastWill: {
              topic: topicsOf(broker.root, design.slug).status,
              qos: 1,
              message: '{"is":"offline"}',
              retain: true,
            },
            bindingVersion: BINDING,
          },
        },
      },
    },
    channels: Object.fromEntries(
      contract.map((c) => [
        c.key,
        { address: c.topic, title: c.title, messages: { value: { $ref: `#/components/messages/${c.key}` } } },
      ]),
    ),
    operations: Object.fromEntries(
      contract.map((c) => [
        `${c.action}-${c.key}`,
        {
          action: c.action,
          channel: channel(c.key),
          title: c.title,
          messages: [message(c.key)],
          bindings: { mqtt: { qos: c.qos, retain: c.retain, bindingVersion: BINDING } },
          ...(c.answers === undefined
            ? {}
            : { reply: { channel: channel(c.answers), messages: [message(c.answers)] } }),
        },
      ]),
    ),
    components: {
      messages: Object.fromEntries(
        contract.map((c) => [
          c.key,
          {
            title: c.title,
            contentType: c.key === 'node-td' ? 'application/td+json' : 'application/json',
            payload: { $ref: `#/components/schemas/${c.key}` },
            bindings: { mqtt: { payloadFormatIndicator: 1, bindingVersion: BINDING } },
          },
        ]),
      ),
      schemas: Object.fromEntries(
        contract.map((c) => [c.key, c.unit === undefined ? c.schema : { ...c.schema, 'x-unit': c.unit }]),
      ),
      securitySchemes: { login: { type: 'userPassword' } },
    },
  }
}

/** JSON Schema 2020-12 of each payload, by topic. */
export function payloadSchemas(design: Design, catalog: Catalog, root: string): Record<string, JsonSchema> {
  return Object.fromEntries(
    contractOf(design, catalog, root).map((c) => [
      c.topic,
      { $schema: 'https://json-schema.org/draft/2020-12/schema', title: c.title, ...c.schema },
    ]),
  )
}
