import type { Board } from '../catalog/board'
import type { Image } from './readImage'

/** What was found at the cable; null before anything was asked. */
export interface Found {
  chip: Board['interpreter']['chip'] | null
  /** Flash, bytes; null where it does not say. */
  flash: number | null
}

const NAMES: Readonly<Record<Board['interpreter']['chip'], string>> = {
  '32-class': 'the 32-class',
  'c3-class': 'the C3-class',
  's3-class': 'the S3-class',
  'c6-class': 'the C6-class',
  '8266-class': 'the 8266-class',
  rp2040: 'the RP2040',
}
export const className = (chip: Board['interpreter']['chip'] | null): string =>
  chip === null ? 'a chip that is not known here' : NAMES[chip]

/**
 * Why this file is not written to this board: nothing where it may be. Asked before anything is erased, with what was
 * found at the cable where that is known.
 */
export function refusals(image: Image | null, board: Board, found: Found | null): string[] {
  if (!image)
    return [
      'This is no interpreter’s image. Take the file for its class from those who make the interpreter: it ends in .bin, for the RP2040 in .uf2.',
    ]
  const { chip, least } = board.interpreter
  const reasons = image.faults.map((f) => `The file is not whole: ${f}.`)
  if (image.chip !== chip)
    reasons.push(`The image is for ${className(image.chip)}; this node’s board (${board.name}) has ${className(chip)}.`)
  if (found && found.chip !== chip)
    reasons.push(
      `At the cable is ${className(found.chip)}; this node’s board (${board.name}) has ${className(chip)}. Take the other board, or choose this one on the Pins bench.`,
    )
  if (found?.flash != null && image.needsFlash > found.flash)
    reasons.push(
      `The image needs ${megabytes(image.needsFlash)} of flash, the board has ${megabytes(found.flash)}. Take an image for a smaller flash.`,
    )
  if (image.version !== null && older(image.version, least))
    reasons.push(`The image is version ${image.version}; this class needs ${least} or later.`)
  return reasons
}

export const megabytes = (bytes: number): string => `${Math.round((10 * bytes) / 1_048_576) / 10} MB`

function older(version: string, least: string): boolean {
  const parts = (v: string) => v.split('.').map(Number)
  const [a, b] = [parts(version), parts(least)]
  const first = b.findIndex((n, i) => n !== (a[i] ?? 0))
  return first >= 0 && (a[first] ?? 0) < (b[first] ?? 0)
}
