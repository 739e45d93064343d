import { z } from 'zod'

/** What a person beside the board could do to it or to its world. Times in s. */
export const deedSchema = z.union([
  z.strictObject({ press: z.number().min(1).max(5000), slug: z.string().optional() }),
  z.strictObject({ cut: z.boolean() }),
  z.strictObject({ contact: z.string(), closed: z.boolean() }),
  z.strictObject({ key: z.string(), press: z.number().min(1).max(5000) }),
  z.strictObject({ loop: z.string(), volts: z.number().min(0).max(5) }),
  z.strictObject({ unplug: z.literal('probe'), for: z.number().min(0).max(600) }),
  z.strictObject({ warm: z.int().min(0).max(20), for: z.number().min(0).max(600) }),
  z.strictObject({ fault: z.enum(['unplugged', 'garbage', 'hangs', 'no network']), for: z.number().min(0).max(600) }),
  z.strictObject({ power: z.enum(['off and on', 'sag']) }),
  z.strictObject({ turn: z.int().min(-50).max(50) }),
  z.strictObject({ send: z.int().min(0).max(0xffffff) }),
  z.strictObject({ fire: z.literal(true) }),
  z.strictObject({ speed: z.number().min(0).max(600) }),
  z.strictObject({ run: z.string().max(2000) }),
])
export type Deed = z.infer<typeof deedSchema>

/** Somebody does what makes a sender of the yard send: which of its codes, and how soon, s. */
export const airDeedSchema = z.strictObject({
  trigger: z.string().max(60),
  which: z.int().min(0).max(9),
  inS: z.number().min(0).max(10),
})
/** Senders of the yard that a person can reach. */
export const AIR_TRIGGERS = ['store door', 'glaze cupboard', 'hand-held', 'yard motion'] as const
/** Whom that is asked of: no node is called like that. */
export const AIR = '-air'

/** What may be the matter with the board, the adapter or the cable of the simulated board at a cable. */
export const CABLE_TROUBLES = ['none', 'charging only', 'crossed', 'strap held', '12 high', 'weak supply'] as const
export const CABLE_CHIPS = ['32-class', 'c3-class', 's3-class', 'c6-class', '8266-class'] as const

/** What somebody does at its end of the cable. */
export const cableDeedSchema = z.union([
  z.strictObject({ plugIn: z.enum(CABLE_CHIPS) }),
  z.strictObject({ trouble: z.enum(CABLE_TROUBLES) }),
  z.strictObject({ pull: z.literal(true) }),
])
export type CableDeed = z.infer<typeof cableDeedSchema>

/** The simulated board at a cable, as it is found: its port on this machine, and what it is. */
export const cableStateSchema = z.object({
  port: z.number(),
  chip: z.enum(CABLE_CHIPS),
  trouble: z.enum(CABLE_TROUBLES),
})
export type CableState = z.infer<typeof cableStateSchema>
/** Whom its deeds are asked of: no node is called like that. */
export const CABLE = '-cable'
/** Where it keeps its flash, beside the boards' folder. */
export const CABLE_FOLDER = 'cable'
