import { z } from 'zod'
import { type Frame } from '../core/radio/subghz/decode'
import { decodeFrame } from '../core/radio/subghz/decode'
import { type Family, familyFigures, familyFileSchema, familyText } from '../core/radio/subghz/family'
import { proposeFamily } from '../core/radio/subghz/propose'

const frameSchema = z.looseObject({ us: z.array(z.number().min(0)).min(1), gapUs: z.number().min(0) })

/** Frames of a file: one JSON object a line, as a gateway publishes them. Throws with the line that is none. */
export function readFrames(text: string): Frame[] {
  return text.split(/\r?\n/).flatMap((line, i) => {
    if (line.trim() === '') return []
    let json: unknown
    try {
      json = JSON.parse(line)
    } catch {
      throw new Error(`line ${i + 1} is not JSON; a frame is {"us":[…],"gapUs":…}`)
    }
    const parsed = frameSchema.safeParse(json)
    if (!parsed.success) {
      const [issue] = parsed.error.issues
      throw new Error(
        `line ${i + 1}, ${issue?.path.join(' › ') || 'the whole'}: ${issue?.message ?? ''}; a frame is {"us":[…],"gapUs":…}`,
      )
    }
    return [parsed.data]
  })
}

/** What raw frames say: by a family that is given, or by the one that is found in them. */
export function decode(frames: string, family: string | null, { json = false }: { json?: boolean }): string {
  const heard = readFrames(frames)
  if (heard.length === 0) throw new Error('There is no frame in it.')
  const known = family === null ? null : readFamily(family)
  const found = known ? null : proposeFamily(heard)
  if (!known && !found)
    throw new Error('These frames have no form in common: frames of one sender, at least two alike, make a family.')
  const of = known ?? found?.family
  const codes = heard.map((f) => (of ? decodeFrame(familyFigures(of), f) : null))
  const counts = new Map<string, number>()
  for (const c of codes) if (c !== null) counts.set(c, (counts.get(c) ?? 0) + 1)
  if (json) return JSON.stringify({ family: of, found: found !== null, why: found?.why ?? [], codes }, null, 2)
  const told = [...counts].map(
    ([code, n]) => `${code}  ${n} of ${heard.length} frames${n === 1 ? ', once only: not believed' : ''}`,
  )
  const unread = codes.filter((c) => c === null).length
  return [
    ...(found ? [...found.why, ''] : []),
    ...told,
    ...(unread > 0 ? [`${unread} frames are not of this family, or damaged.`] : []),
    ...(found ? ['', 'The family, for --family:', familyText(found.family).trimEnd()] : []),
  ].join('\n')
}

function readFamily(text: string): Family {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new Error('the family is not JSON')
  }
  const parsed = familyFileSchema.safeParse(json)
  if (parsed.success) return parsed.data.family
  const [issue] = parsed.error.issues
  throw new Error(`the family, ${issue?.path.join(' › ') || 'the whole'}: ${issue?.message ?? ''}`)
}
