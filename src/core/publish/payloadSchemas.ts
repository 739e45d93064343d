import type { Channel } from '../catalog/part'
import type { Signal } from '../model/design'
import { publishedRange } from './publishedRange'
import { toldBy } from './toldBy'

/** A JSON Schema; what is used of it is the same in draft-07 and 2020-12. */
export type JsonSchema = { [key: string]: unknown }

const SCALAR_OF_OUTPUT: Record<Extract<Channel, { access: 'output' }>['value'], JsonSchema> = {
  'on-off': { type: 'boolean' },
  percent: { type: 'number', minimum: 0, maximum: 100 },
  text: { type: 'string', maxLength: 200 },
  colour: { type: 'string', pattern: '^#[0-9a-fA-F]{6}$' },
}

/** What comes on a signal's topic: one JSON scalar, null while it is not known. */
export function valueSchema(channel: Channel, signal: Signal): JsonSchema {
  if (channel.access === 'event')
    return { type: 'string', enum: [...toldBy(channel.driver, signal.conditioning.patterns)] }
  return { oneOf: [knownSchema(channel, signal), { type: 'null' }] }
}

function knownSchema(channel: Exclude<Channel, { access: 'event' }>, signal: Signal): JsonSchema {
  if (channel.access === 'output') return SCALAR_OF_OUTPUT[channel.value]
  if (channel.access === 'state') return channel.told ? { type: 'string', enum: channel.told } : { type: 'boolean' }
  const { min, max } = publishedRange(channel, signal)
  return Number.isFinite(min) && Number.isFinite(max)
    ? { type: 'number', minimum: min, maximum: max }
    : { type: 'number' }
}

/** What a topic that is set takes: the scalar, or the same with an id that is answered and a time after which it is late. */
export function commandSchema(value: JsonSchema): JsonSchema {
  return {
    oneOf: [
      value,
      {
        type: 'object',
        properties: {
          value,
          id: { type: 'string', maxLength: 64, description: 'acted on once; the answer carries it' },
          until: { type: 'number', description: 'UTC in s; refused after it' },
        },
        required: ['value'],
      },
    ],
  }
}

/** What an output takes as a command. */
export const outputSchema = (channel: Extract<Channel, { access: 'output' }>): JsonSchema =>
  SCALAR_OF_OUTPUT[channel.value]

const nullable = (type: string): JsonSchema => ({ type: [type, 'null'] })
const object = (properties: JsonSchema, required: string[]): JsonSchema => ({ type: 'object', properties, required })

export const DONE_SCHEMA: JsonSchema = object(
  {
    id: nullable('string'),
    result: { type: 'string', enum: ['done', 'refused', 'returned', 'trying', 'piece'] },
    reason: { type: 'string' },
  },
  ['id', 'result'],
)

/** Payloads every node has, by the last level of their topic. */
export const OWN_SCHEMAS: Record<'status' | 'health' | 'config' | 'fault' | 'td', JsonSchema> = {
  status: {
    oneOf: [
      object({ is: { const: 'online' } }, ['is']),
      object({ is: { const: 'offline' } }, ['is']),
      object({ is: { const: 'asleep' }, for: { type: 'number', minimum: 0 }, back: nullable('number') }, [
        'is',
        'for',
        'back',
      ]),
    ],
  },
  health: object(
    {
      dbm: nullable('number'),
      uptimeS: { type: 'number', minimum: 0 },
      freeB: nullable('number'),
      supplyV: nullable('number'),
      restart: { type: 'string' },
      revision: { type: 'integer', minimum: 0 },
    },
    ['dbm', 'uptimeS', 'freeB', 'supplyV', 'restart', 'revision'],
  ),
  config: object(
    { revision: { type: 'integer' }, hash: { type: 'string' }, pieces: { type: 'integer', minimum: 64 } },
    ['revision', 'hash'],
  ),
  fault: object({ what: { type: 'string' }, where: nullable('string'), when: nullable('number') }, ['what']),
  td: object({ '@context': {}, id: { type: 'string' }, title: { type: 'string' } }, ['@context', 'id', 'title']),
}
