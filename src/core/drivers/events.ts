import { z } from 'zod'
import { keyNumber, matrixKey } from '../catalog/matrixKey'
import { mediumSchema } from '../radio/media'

import { formOf } from './driverForm'
import { activeLow, address, chipPin, debounceMs, event, i2cPins, mux, presses, pull, usual } from './fields'
import { omitDefault } from './omitDefault'
import { isKey } from '../catalog/drivers'
import type { DriverContext } from './driverContext'
import { ladderShare, learntBounds } from './ladderShare'

const form = formOf<'event'>()

/** Bounds of a key of a ladder by what it was heard at; null where it was not. */
function heardBounds({ board, kind, channel, design, signal, setting }: DriverContext) {
  const keys = kind.channels.filter((c) => isKey(c.driver))
  const heard = keys.map((_, i) => Number(setting(`share${i + 1}`)) / 100)
  const own = heard[keyNumber(kind, channel)] ?? -1
  const used = new Set(Object.values(design.signals).flatMap((s) => (s.partId === signal.partId ? s.channel : [])))
  const shares = heard.filter((share, i) => share >= 0 && used.has(keys[i]?.id ?? ''))
  // All of them or none: what was heard and what was reckoned must not overlap.
  return own < 0 || shares.length < used.size || new Set(shares).size < shares.length
    ? null
    : learntBounds(board, keys.length, shares, own)
}

/** Drivers whose signals say that something has happened. */
export const events = {
  button: form({
    schema: z.strictObject({
      ...event,
      driver: z.literal('button'),
      pins: z.strictObject({ a: chipPin }),
      activeLow,
      pull,
      debounceMs,
      presses,
    }),
    compile: ({ wakes, pin, line, activeLow: low, pull: held }) => ({
      ...wakes(),
      pins: { a: pin(line) },
      ...low(),
      ...held(line),
    }),
  }),
  key: form({
    schema: z.strictObject({
      ...event,
      driver: z.literal('key'),
      pins: z.strictObject({
        row: chipPin.describe('pulled low to ask'),
        column: chipPin.describe('low when the key is held'),
      }),
      pull,
      debounceMs,
      presses,
    }),
    compile: (context) => {
      const key = matrixKey(context.kind, context.channel)
      const { pin, pull: held } = context
      return key && { pins: { row: pin(key.row), column: pin(key.column) }, ...held(key.column) }
    },
  }),
  ladder: form({
    schema: z.strictObject({
      ...event,
      driver: z.literal('ladder'),
      pins: z.strictObject({ a: chipPin }),
      debounceMs,
      presses,
      lowShare: z.number().min(-1).max(2).describe('held while the share of full scale lies between this'),
      highShare: z.number().min(-1).max(2).describe('and this'),
    }),
    compile: (context) => {
      const share =
        heardBounds(context) ?? ladderShare(context.board, context.kind, keyNumber(context.kind, context.channel))
      return share && { pins: { a: context.pin(context.line) }, ...share }
    },
  }),
  expander: form({
    schema: z.strictObject({
      ...event,
      driver: z.literal('expander'),
      pins: i2cPins,
      address,
      mux,
      bit: z.int().min(0).max(15),
      debounceMs,
      presses,
    }),
    compile: (context) => ({ ...context.onBus(), bit: keyNumber(context.kind, context.channel) }),
  }),
  encoder: form({
    schema: z.strictObject({
      ...event,
      driver: z.literal('encoder'),
      pins: z.strictObject({ a: chipPin, b: chipPin }),
      pull,
      perStep: usual(z.int().min(1).max(4), 4, 'edges from one click to the next'),
    }),
    compile: ({ pin, line, channel, pull: held }) => ({
      pins: { a: pin(line), b: pin(channel.lines[1] ?? '') },
      ...held(line),
    }),
  }),
  radio: form({
    schema: z.strictObject({
      ...event,
      driver: z.literal('radio'),
      pins: z.strictObject({ a: chipPin }),
      medium: usual(mediumSchema, 'subghz', 'last level of the topic of what was heard'),
    }),
    needs: (_, { edges }) => [edges],
    compile: ({ pin, line, channel }) => ({
      pins: { a: pin(line) },
      ...omitDefault('medium', channel.medium ?? 'subghz', 'subghz'),
    }),
  }),
}
