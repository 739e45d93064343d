import type { Chip } from '../../src/core/bundle/chipClass'

export type Reset = 'power' | 'button' | 'watchdog' | 'woke' | 'program'

const FAMILY_32: Record<Reset, number> = { power: 1, button: 1, watchdog: 3, woke: 4, program: 2 }
/** Numbers a start is reported with. RP2040 restarts by its watchdog whoever asked for it. */
export const RESET_NUMBER: Record<Chip, Record<Reset, number>> = {
  '32-class': FAMILY_32,
  'c3-class': FAMILY_32,
  's3-class': FAMILY_32,
  'c6-class': FAMILY_32,
  '8266-class': { power: 0, button: 6, watchdog: 1, woke: 5, program: 4 },
  rp2040: { power: 1, button: 1, watchdog: 3, woke: 3, program: 3 },
}

/** Pins that can never be outputs. */
export const READ_ONLY: Partial<Record<Chip, number[]>> = { '32-class': [34, 35, 36, 39] }
