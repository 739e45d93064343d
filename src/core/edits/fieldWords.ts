const NAMES: Record<string, string> = {
  cableM: 'cable, m',
  rom: 'address',
  gaugeMm2: 'gauge, mm²',
  averageS: 'average',
  mountM: 'mounting height',
  debounceMs: 'debounce',
  longestOnS: 'longest on',
  pulseS: 'pulse',
  holdS: 'hold',
  patterns: 'presses',
  atStart: 'at power-up',
  gapMs: 'gap',
  longMs: 'long press',
  intervalS: 'interval',
}

const words = (value: unknown): string => (Array.isArray(value) ? value.join(', ') : String(value ?? '–'))

/** `median 3 → 5, hold 2 → 4`. `tag` names a signal that a field points to. */
export function fieldWords(
  before: Record<string, unknown>,
  set: Record<string, unknown>,
  tag: (id: string) => string = String,
): string {
  const told = (key: string, value: unknown) =>
    key === 'follows' && typeof value === 'string' ? tag(value) : words(value)
  return Object.entries(set)
    .map(([key, value]) => `${NAMES[key] ?? key} ${told(key, before[key])} → ${told(key, value)}`)
    .join(', ')
}
