import type { Chip } from '../../src/core/bundle/chipClass'
import type { Reset } from '../board/chip'

/** What of a chip's silicon the loader's library asks for and the start-up text shows. Facts of their data sheets. */
export interface Silicon {
  /** Register that tells classes apart, where the loader has no better command. */
  magic: number
  /** Number in the answer to GET_SECURITY_INFO; null for a loader that does not know the command. */
  chipId: number | null
  /** Base of the registers that drive the flash, and of those on it: what to send, its kind, what came back. */
  spi: { base: number; usr: number; usr2: number; w0: number }
  /** Registers with the hardware address. */
  mac: (mac: readonly number[]) => [number, number][]
  /** Where the flash has to hold a program. */
  at: number
  /** Baud of the loader's own first lines. */
  baud: number
  /** Its USB is in the chip. */
  native: boolean
  text: (why: StartWhy) => string
}

export interface StartWhy {
  cause: Exclude<Reset, 'button'> | 'brownout'
  mode: 'flash' | 'download' | 'flash at 1.8 V'
}

const big = (a: number, b: number, c: number, d: number): number => ((a << 24) | (b << 16) | (c << 8) | d) >>> 0
/** The address in two words, its last four bytes first, as the newer chips keep it. */
const twoWords =
  (at: number) =>
  ([a = 0, b = 0, c = 0, d = 0, e = 0, f = 0]: readonly number[]): [number, number][] => [
    [at, big(c, d, e, f)],
    [at + 4, (a << 8) | b],
  ]

const RST_32: Record<StartWhy['cause'], string> = {
  power: '0x1 (POWERON_RESET)',
  program: '0xc (SW_CPU_RESET)',
  woke: '0x5 (DEEPSLEEP_RESET)',
  watchdog: '0x8 (TG1WDT_SYS_RESET)',
  brownout: '0xf (RTCWDT_BROWN_OUT_RESET)',
}
const RST_NEW: Record<StartWhy['cause'], string> = {
  power: '0x1 (POWERON)',
  program: '0x3 (RTC_SW_SYS_RST)',
  woke: '0x5 (DSLEEP)',
  watchdog: '0x8 (TG1WDT_SYS_RST)',
  brownout: '0xf (BROWNOUT_RST)',
}

function family(rom: string, built: string, boot: string, download: string): Silicon['text'] {
  return ({ cause, mode }) =>
    `${rom}\r\n${built}\r\nrst:${RST_NEW[cause]},boot:${mode === 'download' ? download : boot}\r\n${
      mode === 'download' ? 'waiting for download\r\n' : ''
    }`
}

export const SILICON: Partial<Record<Chip, Silicon>> = {
  '32-class': {
    magic: 0x00f01d83,
    chipId: null,
    spi: { base: 0x3ff42000, usr: 0x1c, usr2: 0x24, w0: 0x80 },
    mac: ([a = 0, b = 0, c = 0, d = 0, e = 0, f = 0]) => [
      [0x3ff5a004, big(c, d, e, f)],
      [0x3ff5a008, (a << 8) | b],
    ],
    at: 0x1000,
    baud: 115_200,
    native: false,
    text: ({ cause, mode }) => {
      const boot = {
        flash: '0x13 (SPI_FAST_FLASH_BOOT)',
        download: '0x3 (DOWNLOAD_BOOT(UART0/UART1/SDIO_REI_REO_V2))',
        'flash at 1.8 V': '0x33 (SPI_FAST_FLASH_BOOT)',
      }[mode]
      return `ets Jul 29 2019 12:21:46\r\n\r\nrst:${RST_32[cause]},boot:${boot}\r\n${mode === 'download' ? 'waiting for download\r\n' : ''}`
    },
  },
  'c3-class': {
    magic: 0x1b31506f,
    chipId: 5,
    spi: { base: 0x60002000, usr: 0x18, usr2: 0x20, w0: 0x58 },
    mac: twoWords(0x60008844),
    at: 0,
    baud: 115_200,
    native: true,
    text: family(
      'ESP-ROM:esp32c3-api1-20210207',
      'Build:Feb  7 2021',
      '0xc (SPI_FAST_FLASH_BOOT)',
      '0x4 (DOWNLOAD(USB/UART0/1))',
    ),
  },
  's3-class': {
    magic: 0x09,
    chipId: 9,
    spi: { base: 0x60002000, usr: 0x18, usr2: 0x20, w0: 0x58 },
    mac: twoWords(0x60007044),
    at: 0,
    baud: 115_200,
    native: true,
    text: family(
      'ESP-ROM:esp32s3-20210327',
      'Build:Mar 27 2021',
      '0x8 (SPI_FAST_FLASH_BOOT)',
      '0x0 (DOWNLOAD(USB/UART0))',
    ),
  },
  'c6-class': {
    magic: 0x2ce0806f,
    chipId: 13,
    spi: { base: 0x60003000, usr: 0x18, usr2: 0x20, w0: 0x58 },
    mac: twoWords(0x600b0844),
    at: 0,
    baud: 115_200,
    native: true,
    text: family(
      'ESP-ROM:esp32c6-20220919',
      'Build:Sep 19 2022',
      '0xc (SPI_FAST_FLASH_BOOT)',
      '0x4 (DOWNLOAD(USB/UART0/SDIO_FEI_FEO))',
    ),
  },
  '8266-class': {
    magic: 0xfff0c101,
    chipId: null,
    spi: { base: 0x60000200, usr: 0x1c, usr2: 0x24, w0: 0x40 },
    mac: ([a = 0, b = 0, c = 0, d = 0, e = 0, f = 0]) => [
      [0x3ff00050, (f << 24) >>> 0],
      [0x3ff00054, (d << 8) | e],
      [0x3ff0005c, big(0, a, b, c)],
    ],
    at: 0,
    baud: 74_880,
    native: false,
    text: ({ cause, mode }) => {
      const number = { power: 1, program: 2, woke: 2, watchdog: 4, brownout: 2 }[cause]
      return `\r\n ets Jan  8 2013,rst cause:${number}, boot mode:(${mode === 'download' ? '1,6' : '3,6'})\r\n\r\n`
    },
  },
}
