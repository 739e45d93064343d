import type { Board } from '../catalog/board'

/** Class of the chip, as board files name it. */
export type Chip = Board['interpreter']['chip']

/** Boards of this class carry the runtime with short names. */
export const isSmall = (chip: Chip): boolean => chip === '8266-class'

/** Chips of one family share one port of the interpreter. */
export const isFamily32 = (chip: Chip): boolean => chip !== '8266-class' && chip !== 'rp2040'

/** What the interpreter's port calls itself in `sys.platform`: its own identifiers, spelt as it spells them. */
export const platformOf = (chip: Chip): string => {
  if (chip === 'rp2040') return 'rp2'
  if (isFamily32(chip)) return 'esp32'
  return 'esp8266'
}
