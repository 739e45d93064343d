import { z } from 'zod'
import type { Medium } from './medium'
import type { Family } from './subghz/family'
import { subghz } from './subghz/subghz'

/** Every medium by the last level of the topics it is heard under. */
export const MEDIA = { subghz } as const satisfies Record<string, object>
export type MediumId = keyof typeof MEDIA

const isMedium = (id: string): id is MediumId => Object.hasOwn(MEDIA, id)
const MEDIUM_IDS = Object.keys(MEDIA).filter(isMedium)
export const mediumSchema = z.enum(MEDIUM_IDS).describe('how it is heard or sent: last level of the topic of a frame')

/** What a frame of a medium is: decoded, described, or wrong in form. */
export type Heard =
  | { kind: 'decoded'; family: Family; code: string; words: string }
  | { kind: 'raw'; words: string }
  | { kind: 'odd'; words: string }

/** What a frame says, by the families that are known. `json` is the payload as it came. */
export function heardFrame(medium: string, json: unknown, families: readonly Family[]): Heard {
  if (!isMedium(medium)) return { kind: 'odd', words: `a medium nobody here knows: “${medium}”` }
  return readFrame(MEDIA[medium], json, families)
}

function readFrame<F>(medium: Medium<F>, json: unknown, families: readonly Family[]): Heard {
  const parsed = medium.frame.safeParse(json)
  if (!parsed.success) return { kind: 'odd', words: parsed.error.issues[0]?.message ?? 'not a frame' }
  const read = medium.decode(parsed.data, families)
  const family = read && families[read.family]
  if (read && family) return { kind: 'decoded', family, code: read.code, words: `${read.code} of ${family.name}` }
  return { kind: 'raw', words: `a frame ${medium.describe(parsed.data)}, ${medium.name}` }
}
