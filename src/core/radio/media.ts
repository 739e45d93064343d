import { z } from 'zod'
import type { Decoded, Medium } from './medium'
import { subghz } from './subghz/subghz'

/** Every medium by the last level of the topics it is heard under. */
export const MEDIA = { subghz } as const satisfies Record<string, object>
export type MediumId = keyof typeof MEDIA

const isMedium = (id: string): id is MediumId => Object.hasOwn(MEDIA, id)
const MEDIUM_IDS = Object.keys(MEDIA).filter(isMedium)
export const mediumSchema = z.enum(MEDIUM_IDS).describe('how it is heard or sent: last level of the topic of a frame')

/** What a frame of a medium is: decoded, described, or wrong in form. */
export type Heard =
  { kind: 'decoded'; decoded: Decoded; words: string } | { kind: 'raw'; words: string } | { kind: 'odd'; words: string }

/** What a frame says, as far as this product knows. `json` is the payload as it came. */
export function heardFrame(medium: string, json: unknown): Heard {
  if (!isMedium(medium)) return { kind: 'odd', words: `a medium nobody here knows: “${medium}”` }
  return readFrame(MEDIA[medium], json)
}

function readFrame<F>(medium: Medium<F>, json: unknown): Heard {
  const parsed = medium.frame.safeParse(json)
  if (!parsed.success) return { kind: 'odd', words: parsed.error.issues[0]?.message ?? 'not a frame' }
  for (const decoder of medium.decoders) {
    const decoded = decoder.decode(parsed.data)
    if (decoded) return { kind: 'decoded', decoded, words: `${decoded.code} of ${decoded.family}` }
  }
  return { kind: 'raw', words: `a frame ${medium.describe(parsed.data)}, ${medium.name}` }
}
