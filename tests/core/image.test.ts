import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Chip } from '../../src/core/bundle/chipClass'
import { refusals } from '../../src/core/image/judgeImage'
import { readImage } from '../../src/core/image/readImage'
import { catalog } from '../support/designs'
import { madeDriveFile, madeImage } from '../../standins/cable/madeImage'

const CLASSES = ['32-class', 'c3-class', 's3-class', 'c6-class', '8266-class'] as const
const boardOf = (chip: Chip) => {
  const board = Object.values(catalog.boards).find((b) => b.interpreter.chip === chip)
  if (!board) throw new Error(chip)
  return board
}
const MB = 1024 * 1024
type Modules = Record<string, new (...given: unknown[]) => unknown>

describe('an image says whom it is for', () => {
  test.each(CLASSES)('%s', (chip) => {
    const image = readImage(madeImage(chip))
    expect(image).toMatchObject({ chip, faults: [], at: chip === '32-class' ? 0x1000 : 0 })
    expect(refusals(image, boardOf(chip), { chip, flash: 4 * MB })).toEqual([])
    for (const other of [...CLASSES, 'rp2040' as const].filter((c) => c !== chip)) {
      expect(refusals(image, boardOf(other), null)[0]).toMatch(/The image is for/)
      expect(refusals(image, boardOf(chip), { chip: other, flash: null })[0]).toMatch(/At the cable is/)
    }
  })
  // The loader's library reads segments and the place of their sum by itself.
  test.each([
    ['32-class', 'esptool-js/lib/image/esp32.js', 'ESP32FirmwareImage', 'esptool-js/lib/targets/esp32.js', 'ESP32ROM'],
    [
      'c3-class',
      'esptool-js/lib/image/others.js',
      'ESP32C3FirmwareImage',
      'esptool-js/lib/targets/esp32c3.js',
      'ESP32C3ROM',
    ],
    [
      '8266-class',
      'esptool-js/lib/image/esp8266.js',
      'ESP8266ROMFirmwareImage',
      'esptool-js/lib/targets/esp8266.js',
      'ESP8266ROM',
    ],
  ] as const)('%s is laid out as the loader’s library reads it', async (chip, imageAt, imageName, romAt, romName) => {
    const [images, roms] = [(await import(imageAt)) as Modules, (await import(romAt)) as Modules]
    const { checksum } = (await import('esptool-js/lib/util.js')) as unknown as { checksum(data: Uint8Array): number }
    const [ImageOf, Rom] = [images[imageName], roms[romName]]
    if (!ImageOf || !Rom) throw new Error('the library has other names now')
    const file = madeImage(chip, { bytes: 8000 })
    const read = new ImageOf(new Rom(), file) as { segments: { data: Uint8Array }[]; checksum: number }
    expect(read.segments).toHaveLength(1)
    expect(read.checksum).toBe(checksum(read.segments[0]?.data ?? new Uint8Array()))
  })
  test('the smallest one there is, put together by hand', () => {
    // Header, load address and length, four bytes, and at the end of the second block of 16 their sum:
    // EF ⊕ 12 = FD, ⊕ 34 = C9, ⊕ 56 = 9F, ⊕ 78 = E7.
    const hex = 'e9010240 00001040 00001040 04000000 12345678 0000000000000000000000 e7'
    const file = new Uint8Array(Buffer.from(hex.replaceAll(' ', ''), 'hex'))
    expect(readImage(file)).toMatchObject({ chip: '8266-class', at: 0, faults: [] })
    file[31] = 0xe6
    expect(readImage(file)?.faults.join()).toMatch(/damaged/)
  })
  test('one that begins with the flash rather than with its program', () => {
    const whole = new Uint8Array([...new Uint8Array(0x1000).fill(0xff), ...madeImage('32-class')])
    expect(readImage(whole)).toMatchObject({ chip: '32-class', at: 0, faults: [] })
  })
  test('the RP2040’s file for its drive, block by block', () => {
    expect(readImage(madeDriveFile())).toMatchObject({ kind: 'drive', chip: 'rp2040', at: null, faults: [] })
    expect(readImage(madeDriveFile({ family: 0xe48bff59 }))?.chip).toBeNull()
    expect(readImage(madeDriveFile().subarray(0, 512 * 30))?.faults.join()).toMatch(/cut short/)
    const damaged = madeDriveFile()
    damaged[512 * 7 + 508] = 0
    expect(readImage(damaged)?.faults.join()).toMatch(/damaged/)
  })
  test('the program alone, a smaller flash, too old a version', () => {
    const alone = madeImage('32-class').slice(0x10000 - 0x1000)
    expect(refusals(readImage(alone), boardOf('32-class'), null).join()).toMatch(/program alone/)
    const large = readImage(madeImage('s3-class', { flash: 8 * MB }))
    expect(refusals(large, boardOf('s3-class'), { chip: 's3-class', flash: 4 * MB })).toEqual([
      'The image needs 8 MB of flash, the board has 4 MB. Take an image for a smaller flash.',
    ])
    const old = readImage(madeImage('c6-class', { version: '1.23.0' }))
    expect(refusals(old, boardOf('c6-class'), null)).toEqual([
      'The image is version 1.23.0; this class needs 1.24 or later.',
    ])
    // Numbers, not letters: 1.9 is older than 1.20.
    expect(refusals(readImage(madeImage('c3-class', { version: '1.9.4' })), boardOf('c3-class'), null)).toHaveLength(1)
  })
  test('a byte that is wrong anywhere in what is summed, and a file that ends early, are found', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...CLASSES),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: 1, max: 255 }),
        (chip, where, by) => {
          const image = madeImage(chip, { bytes: 8000 })
          const cut = image.slice(0, Math.max(64, Math.floor(image.length * where)))
          if (cut.length < image.length) expect(readImage(cut)?.faults.length).toBeGreaterThan(0)
          const summed = chip === '8266-class' ? 16 : 0x10000 - (chip === '32-class' ? 0x1000 : 0) + 32
          const at = summed + Math.floor((image.length - summed - 40) * where)
          image[at] = (image[at] ?? 0) ^ by
          expect(readImage(image)?.faults.length, `byte ${at}`).toBeGreaterThan(0)
        },
      ),
      { numRuns: 60 },
    )
  })
  test('anything else is no image, and nothing of it throws', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 3000 }), (bytes) => {
        for (const first of [0xe9, 0x55, 0x00]) {
          const file = Uint8Array.from([first, ...bytes])
          expect(refusals(readImage(file), boardOf('32-class'), null).length).toBeGreaterThan(0)
        }
      }),
      { numRuns: 300 },
    )
  })
})
