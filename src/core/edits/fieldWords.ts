import { levelsSchema, levelsWords } from '../catalog/levels'
import { CONDITIONING_KEYS, conditioningField } from '../model/conditioning'

/** Names of what is no conditioning; that has its own in its table. */
const NAMES: Record<string, string> = {
  cableM: 'cable, m',
  rom: 'address',
  gaugeMm2: 'gauge, mm²',
  intervalS: 'interval',
}

function nameOf(key: string): string {
  const known = CONDITIONING_KEYS.find((k) => k === key)
  return known === undefined ? (NAMES[key] ?? key) : conditioningField(known).words
}

function words(value: unknown): string {
  const levels = levelsSchema.safeParse(value)
  if (levels.success) return levelsWords(levels.data)
  return Array.isArray(value) ? value.join(', ') : String(value ?? '–')
}

/** `median 3 → 5, hold 2 → 4`. `tag` names a signal that a field points to. */
export function fieldWords(
  before: Record<string, unknown>,
  set: Record<string, unknown>,
  tag: (id: string) => string = String,
): string {
  const told = (key: string, value: unknown) =>
    key === 'follows' && typeof value === 'string' ? tag(value) : words(value)
  return Object.entries(set)
    .map(([key, value]) => `${nameOf(key)} ${told(key, before[key])} → ${told(key, value)}`)
    .join(', ')
}
