import { type Chip, isFamily32 } from '../bundle/chipClass'

export type WifiStep =
  'up' | 'joining' | 'idle' | 'no such network' | 'wrong password' | 'refused' | 'lost' | 'timed out' | 'failed'

const FAMILY_32: Readonly<Record<number, WifiStep>> = {
  200: 'lost',
  201: 'no such network',
  202: 'wrong password',
  203: 'refused',
  204: 'timed out',
  1000: 'idle',
  1001: 'joining',
  1010: 'up',
}
const SMALL: Readonly<Record<number, WifiStep>> = {
  0: 'idle',
  1: 'joining',
  2: 'wrong password',
  3: 'no such network',
  4: 'failed',
  5: 'up',
}
const RP2040: Readonly<Record<number, WifiStep>> = {
  [-3]: 'wrong password',
  [-2]: 'no such network',
  [-1]: 'failed',
  0: 'idle',
  1: 'joining',
  // Joined, and no address yet.
  2: 'joining',
  3: 'up',
}

/** What the interpreter's number for its network says on this class of chip; null for a number it does not use. */
export function wifiStep(chip: Chip | null, status: number): WifiStep | null {
  if (chip === 'rp2040') return RP2040[status] ?? null
  if (chip !== null && !isFamily32(chip)) return SMALL[status] ?? null
  // Without the class: the numbers of the 32 family and those below nothing are like no other's.
  return FAMILY_32[status] ?? (chip === null && status < 0 ? (RP2040[status] ?? null) : null)
}

/** What was wrong with joining and what to do, in words; null while nothing is. */
export const WIFI_WORDS: Readonly<Record<WifiStep, { what: string; next: readonly string[] } | null>> = {
  up: null,
  joining: null,
  idle: null,
  'no such network': {
    what: 'no network of that name is heard here',
    next: [
      'Compare the name letter by letter: large and small letters differ.',
      'The access point has to send on 2.4 GHz, on one of channels 1 to 11.',
      'Bring the board within two metres of the access point and try again: if it joins there, it is the distance.',
    ],
  },
  'wrong password': {
    what: 'the network refuses its password',
    next: ['Enter the password anew under Settings, make the bundle again and put it on.'],
  },
  refused: {
    what: 'the access point turns it away',
    next: [
      'Look for a list of allowed devices, or a limit of how many, in the access point.',
      'The access point has to offer WPA2: these boards join no network that is WPA3 alone.',
    ],
  },
  lost: {
    what: 'the network went away while it was in it',
    next: ['Read the strength where it hangs; below −75 dBm move the board, its antenna or the access point.'],
  },
  'timed out': {
    what: 'the network did not finish letting it in',
    next: [
      'Mostly the distance: try within two metres of the access point.',
      'If it fails there too, enter the password anew.',
    ],
  },
  failed: {
    what: 'joining failed without a reason given',
    next: ['Take the supply away for ten seconds and try again; then try within two metres of the access point.'],
  },
}
