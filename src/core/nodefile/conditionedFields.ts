import type { DriverName } from '../catalog/drivers'
import type { DriverContext } from '../drivers/driverContext'
import { formFor } from '../drivers/drivers'
import { canonicalJson } from '../hash/canonicalJson'
import { isFollowing } from '../model/behaviour'
import {
  type Conditioning,
  CONDITIONING_KEYS,
  type ConditioningKey,
  conditioningChangeSchema,
  conditioningField,
} from '../model/conditioning'
import type { Design } from '../model/design'

type Fields = Record<string, unknown>
interface Split {
  group: string | null
  name: string
}

/** `chain.median` is `median` in the group `chain`; `holdS` is in none. */
export function splitPath(path: string): Split {
  const [first = '', second] = path.split('.')
  return second === undefined ? { group: null, name: first } : { group: first, name: second }
}

/** Value a field has in a file that leaves it out. */
export const leftOut = (key: ConditioningKey): unknown => {
  const { file, usual } = conditioningField(key)
  return file.usual === undefined ? usual : file.usual
}

const same = (a: unknown, b: unknown): boolean => canonicalJson(a ?? null) === canonicalJson(b ?? null)

/** The driver's form in the file has room for this field. */
export function hasField(driver: DriverName, key: ConditioningKey): boolean {
  const { group, name } = splitPath(conditioningField(key).file.path)
  return (group ?? name) in formFor(driver).schema.shape
}

/** Values that are not in the file as they are in the design. */
const TO_FILE: { [K in ConditioningKey]?: (value: Conditioning[K], context: DriverContext) => unknown } = {
  holdS: (value, { channel }) => value ?? (channel.access === 'state' ? channel.proposes.holdS : undefined) ?? 0,
  // What it says follows from its make as well: its driver writes it.
  says: () => null,
  follows: (value, { design, signal }) =>
    value !== null && isFollowing(signal.conditioning.atStart) ? (design.signals[value]?.slug ?? null) : null,
}

function inFile<K extends ConditioningKey>(key: K, context: DriverContext): unknown {
  const value: Conditioning[K] = context.signal.conditioning[key]
  const turned = TO_FILE[key]
  return turned ? turned(value, context) : value
}

/** The conditioning of a signal as its driver's form has it: what is as usual is left out, a group of usual ones whole. */
export function conditionedFields(context: DriverContext, driver: DriverName): Fields & { chain?: Fields } {
  const out: Fields = {}
  for (const key of CONDITIONING_KEYS) {
    if (!hasField(driver, key)) continue
    const { group, name } = splitPath(conditioningField(key).file.path)
    const value = inFile(key, context)
    if (group === null) {
      if (!same(value, leftOut(key))) out[name] = value
    } else if (group === 'presses') {
      // Patterns and their times go together; a single press at once needs none of them.
      if (!same(context.signal.conditioning.patterns, leftOut('patterns')))
        out.presses = { ...(out.presses as Fields | undefined), [name]: value }
    } else if (!same(value, leftOut(key))) out[group] = { ...(out[group] as Fields | undefined), [name]: value }
  }
  return out
}

/** What a signal of a file says of a field, or undefined where it leaves it out. */
export function readField(signal: object, key: ConditioningKey): unknown {
  const { group, name } = splitPath(conditioningField(key).file.path)
  const from = group === null ? signal : (signal as Fields)[group]
  return typeof from === 'object' && from !== null ? (from as Fields)[name] : undefined
}

/** Values that are not in the design as they are in the file. */
const FROM_FILE: { [K in ConditioningKey]?: (value: unknown, design: Design) => unknown } = {
  follows: (slug, design) => Object.entries(design.signals).find(([, s]) => s.slug === slug)?.[0] ?? null,
}
/** Fields that only mean something together: when one changes all are set. */
const TOGETHER: readonly (readonly ConditioningKey[])[] = [['atStart', 'follows']]
/** Times that are in a file only while patterns are: left out they stay as the design has them. */
const STAYS: readonly ConditioningKey[] = ['gapMs', 'longMs']

/** What of the conditioning is otherwise in `after`, a signal of an edited file, than in `before`. */
export function conditioningBetween(
  design: Design,
  driver: DriverName,
  before: object,
  after: object,
): Partial<Conditioning> {
  const [b, a] = [before, after].map((signal) => (key: ConditioningKey) => readField(signal, key) ?? leftOut(key))
  const own = CONDITIONING_KEYS.filter((key) => !NOT_FROM_FILE.includes(key) && hasField(driver, key))
  const changed = new Set(
    own.filter((key) => {
      if (STAYS.includes(key) && readField(after, key) === undefined) return false
      const was = STAYS.includes(key) ? (readField(before, key) ?? leftOut(key)) : b?.(key)
      return !same(was, a?.(key))
    }),
  )
  for (const group of TOGETHER)
    if (group.some((key) => changed.has(key))) for (const key of group) if (own.includes(key)) changed.add(key)
  const set = Object.fromEntries(
    [...changed].map((key) => [key, FROM_FILE[key] ? FROM_FILE[key](a?.(key), design) : a?.(key)]),
  )
  return conditioningChangeSchema.parse(set)
}

/** What the design knows more of than the file: it is not taken from there. */
const NOT_FROM_FILE: readonly ConditioningKey[] = ['says']

/** Paths of a signal in the file that conditioning covers. */
export const conditioningPaths: readonly string[] = CONDITIONING_KEYS.filter((key) => !NOT_FROM_FILE.includes(key)).map(
  (key) => conditioningField(key).file.path,
)
