import { type Chip, isFamily32 } from '../bundle/chipClass'

/** Why a chip started, in the words of this program. */
export type StartCause = 'power' | 'reset' | 'program' | 'woke' | 'watchdog' | 'brownout' | 'usb' | 'other'

/** `rst cause:` of the 8266-class ROM. */
const CAUSES_8266: Readonly<Record<number, StartCause>> = {
  0: 'other',
  1: 'power',
  // Waking from deep sleep is a reset over the wire that sleep needs: the number is the same.
  2: 'reset',
  3: 'program',
  4: 'watchdog',
}

/** `rst:0x…` of the 32 family's ROM. Numbers mean the same throughout the family, the words beside them differ. */
const CAUSES_32: Readonly<Record<number, StartCause>> = {
  0x1: 'power',
  0x3: 'program',
  0x4: 'watchdog',
  0x5: 'woke',
  0x6: 'other',
  0x7: 'watchdog',
  0x8: 'watchdog',
  0x9: 'watchdog',
  0xa: 'other',
  0xb: 'watchdog',
  0xc: 'program',
  0xd: 'watchdog',
  0xe: 'reset',
  0xf: 'brownout',
  0x10: 'watchdog',
  0x11: 'watchdog',
  0x12: 'watchdog',
  0x13: 'other',
  0x14: 'other',
  0x15: 'usb',
  0x16: 'usb',
  0x17: 'brownout',
  0x18: 'usb',
}

/** Cause of a start by the number the ROM prints; `other` for one that is not in its tables. */
export function causeOf(chip: Chip | null, number: number): StartCause {
  const table = chip === null || isFamily32(chip) ? CAUSES_32 : CAUSES_8266
  return table[number] ?? 'other'
}

/** What the three pins that choose the start said to the 8266-class ROM: 15, 0 and 2, highest first. */
export type Mode8266 = 'flash' | 'download' | '15 high' | '2 low'

/**
 * Start mode of the 8266-class from the first number of `boot mode:(n,…)`. Bits are pins 15, 0, 2: 011 starts from
 * flash, 001 is download mode, 1xx waits for a card, and with 2 low none of them is chosen.
 */
export function mode8266(n: number): Mode8266 {
  if (n & 4) return '15 high'
  if ((n & 1) === 0) return '2 low'
  return n & 2 ? 'flash' : 'download'
}
