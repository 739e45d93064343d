/** What the interpreter's port for a chip class does its own way, as far as the simulated board has to do it too. */
export const CHIPS = ['esp32', 'esp32c3', 'esp32s3', 'esp32c6', 'esp8266', 'rp2040'] as const
export type Chip = (typeof CHIPS)[number]
export type Reset = 'power' | 'button' | 'watchdog' | 'woke' | 'program'

const ESP32: Record<Reset, number> = { power: 1, button: 1, watchdog: 3, woke: 4, program: 2 }
/** Numbers a start is reported with. RP2040 restarts by its watchdog whoever asked for it. */
export const RESET_NUMBER: Record<Chip, Record<Reset, number>> = {
  esp32: ESP32, esp32c3: ESP32, esp32s3: ESP32, esp32c6: ESP32,
  esp8266: { power: 0, button: 6, watchdog: 1, woke: 5, program: 4 },
  rp2040: { power: 1, button: 1, watchdog: 3, woke: 3, program: 3 },
}

/** Value of `sys.platform` on it. */
export const platformOf = (chip: Chip): string => (chip === 'esp8266' ? 'esp8266' : chip === 'rp2040' ? 'rp2' : 'esp32')

/** Pins that can never be outputs. */
export const READ_ONLY: Partial<Record<Chip, number[]>> = { esp32: [34, 35, 36, 39] }
