import { z } from 'zod'
import {
  addedSchema,
  calibrationSchema,
  conditioningChangeSchema,
  fixedAddressSchema,
  foundSchema,
  guardSchema,
  idSchema,
  nameSchema,
  romSchema,
  ruleSchema,
  slugSchema,
} from './design'
import { changeSchema } from './changes'

const newSignal = z.strictObject({
  id: idSchema,
  channel: z.string().max(100),
  name: nameSchema.optional(),
  slug: slugSchema.optional(),
})

/** What a person can do to a design. One kind, one meaning; ids of new things come with the edit. */
export const editBodySchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('add-part'),
    partId: idSchema,
    part: z.string().max(100),
    label: nameSchema,
    signals: z.array(newSignal).max(16),
  }),
  z.strictObject({ kind: z.literal('remove-part'), partId: idSchema }),
  z.strictObject({ kind: z.literal('rename-part'), partId: idSchema, label: nameSchema }),
  z.strictObject({
    kind: z.literal('set-part'),
    partId: idSchema,
    setting: z.string().max(100),
    value: z.union([z.number(), z.string().max(100)]),
  }),
  z.strictObject({
    kind: z.literal('feed'),
    partId: idSchema,
    terminal: z.string().max(100),
    rail: z.string().max(50).nullable(),
  }),
  z.strictObject({ kind: z.literal('add-signal'), partId: idSchema, signal: newSignal }),
  z.strictObject({ kind: z.literal('remove-signal'), signalId: idSchema }),
  z.strictObject({ kind: z.literal('rename-signal'), signalId: idSchema, name: nameSchema, slug: slugSchema }),
  z.strictObject({ kind: z.literal('condition'), signalId: idSchema, set: conditioningChangeSchema }),
  z.strictObject({
    kind: z.literal('publish'),
    signalId: idSchema,
    set: z
      .strictObject({
        entity: z.boolean(),
        intervalS: z.number().min(0).max(86400),
        change: z.number().min(0),
        decimals: z.int().min(0).max(6),
        unit: z.string().max(100),
      })
      .partial(),
  }),
  z.strictObject({ kind: z.literal('calibrate'), signalId: idSchema, calibration: calibrationSchema.nullable() }),
  z.strictObject({ kind: z.literal('choose-board'), board: z.string().max(100) }),
  z.strictObject({ kind: z.literal('identify'), name: nameSchema, slug: slugSchema, area: z.string().max(60) }),
  z.strictObject({
    kind: z.literal('copy-part'),
    partId: idSchema,
    newId: idSchema,
    label: nameSchema,
    signals: z.array(newSignal).max(16),
  }),
  z.strictObject({
    kind: z.literal('gather'),
    partIds: z.array(idSchema).min(2).max(32),
    part: z.string().max(100),
    partId: idSchema,
    label: nameSchema,
  }),
  z.strictObject({ kind: z.literal('set-bus'), partId: idSchema, bus: z.string().max(30).nullable() }),
  z.strictObject({
    kind: z.literal('sleep'),
    everyS: z.number().min(5, 'at least 5 s').max(604_800, 'at most a week').nullable(),
    listenS: z.number().min(0.5).max(60).optional(),
  }),
  z.strictObject({ kind: z.literal('set-rule'), ruleId: idSchema, rule: ruleSchema.nullable() }),
  z.strictObject({ kind: z.literal('set-guard'), guardId: idSchema, guard: guardSchema.nullable() }),
  z.strictObject({
    kind: z.literal('connect'),
    ref: slugSchema,
    address: z.enum(['name', 'lease', 'fixed']),
    fixed: fixedAddressSchema.nullable(),
    keepAliveS: z.int().min(2).max(600),
    secure: z.boolean().optional(),
  }),
  z.strictObject({
    kind: z.literal('set-cost'),
    item: z.string().max(40),
    cost: z.number().min(0).max(100_000).nullable(),
  }),
  z.strictObject({ kind: z.literal('lock'), line: z.string().max(100), pin: z.string().max(100) }),
  z.strictObject({ kind: z.literal('unlock'), line: z.string().max(100) }),
  z.strictObject({ kind: z.literal('keep-free'), pin: z.string().max(100), free: z.boolean() }),
  z.strictObject({ kind: z.literal('accept-plan'), pins: z.record(z.string(), z.string().max(100)) }),
  z.strictObject({ kind: z.literal('add-component'), componentId: idSchema, component: addedSchema }),
  z.strictObject({ kind: z.literal('remove-component'), componentId: idSchema }),
  z.strictObject({ kind: z.literal('mark-wire'), wire: z.string().max(100), made: z.boolean() }),
  z.strictObject({
    kind: z.literal('set-wire'),
    wire: z.string().max(100),
    set: z.strictObject({ insulation: z.string().min(1).max(30), gaugeMm2: z.number().min(0.05).max(10) }).partial(),
  }),
  z.strictObject({
    kind: z.literal('place-part'),
    partId: idSchema,
    set: z
      .strictObject({ cableM: z.number().min(0.01).max(100), outdoor: z.boolean(), rom: romSchema.nullable() })
      .partial(),
  }),
  z.strictObject({ kind: z.literal('record-found'), partId: idSchema, found: foundSchema.nullable() }),
  z.strictObject({ kind: z.literal('feed-board'), rail: z.string().max(50).nullable() }),
  z.strictObject({ kind: z.literal('made-otherwise'), line: z.string().max(100), pin: z.string().max(100) }),
  z.strictObject({ kind: z.literal('revert'), of: z.string().max(200), changes: z.array(changeSchema).max(2000) }),
])
export type EditBody = z.infer<typeof editBodySchema>

/** An edit as it is sent and kept. `base` is the sequence number of the design it was made on. */
export const editSchema = z.strictObject({
  id: z.uuid(),
  node: z.uuid(),
  base: z.int().min(0),
  body: editBodySchema,
  author: z.string().max(60),
  at: z.iso.datetime().refine((at) => at >= '1970' && at < '9999', 'a moment between 1970 and 9999'),
})
export type Edit = z.infer<typeof editSchema>
