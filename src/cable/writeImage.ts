import { md5 } from '@noble/hashes/legacy.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import type { ESPLoader as Loader, Transport as LoaderTransport } from 'esptool-js'
import type { Chip } from '../core/bundle/chipClass'
import type { Board } from '../core/catalog/board'
import { className, refusals } from '../core/image/judgeImage'
import { CHIP_OF, readImage } from '../core/image/readImage'
import { readStartup } from '../core/startup/readStartup'
import { type CablePort, CableTrouble, Stopped, wait } from './port'
import { Recorded } from './recorded'

export interface Writing {
  port: CablePort
  image: Uint8Array
  board: Board
  /** Everything on the board first: settings and files of whatever was there. */
  erase: boolean
  told: (step: WritingStep) => void
  stopped?: () => boolean
}

export type WritingStep =
  | { step: 'reaching' | 'erasing' | 'comparing' | 'starting' }
  | { step: 'found'; chip: Chip; hardware: string; flash: number | null }
  | { step: 'writing'; done: number; of: number }

export interface Written {
  chip: Chip
  hardware: string
  flash: number | null
  sha256: string
}

/** The loader answers at this baud after a reset. */
const ROM_BAUD = 115_200
/** Attempts at getting through to the loader; each is five questions. */
const ATTEMPTS = 4

/** Register that tells the smallest class, which has no number among chips: its loader says none. */
const SMALLEST_MAGIC = 0xfff0c101

/** The class the library has found; null for one that is not written here. */
function classOf({ IMAGE_CHIP_ID: number, CHIP_DETECT_MAGIC_VALUE: magic }: FoundChip): Chip | null {
  if (number !== undefined) return CHIP_OF[number] ?? null
  return magic?.includes(SMALLEST_MAGIC) ? '8266-class' : null
}
interface FoundChip {
  IMAGE_CHIP_ID?: number
  CHIP_DETECT_MAGIC_VALUE?: readonly number[]
}

/**
 * Writes an interpreter's image through the chip's own loader: finds out what is at the cable, refuses before anything
 * is erased, writes, has the chip compare what it holds by MD5, starts it. Cut or stopped while writing, the board has
 * no whole interpreter and says so at its start; the same again mends it. Throws CableTrouble with what to try.
 */
export async function writeImage({
  port,
  image: file,
  board,
  erase,
  told,
  stopped = () => false,
}: Writing): Promise<Written> {
  const image = readImage(file)
  const before = refusals(image, board, null)
  if (before.length > 0 || !image) throw new CableTrouble(before[0] ?? 'This is no image.', before.slice(1))
  const { at } = image
  if (at === null)
    throw new CableTrouble('This class takes its image over a drive, not over a port.', [
      'Hold the button while the cable goes in, and copy the file onto the drive that appears.',
    ])
  // Some hundred kilobytes that only writing needs.
  const { ESPLoader, Transport } = await import('esptool-js')
  const heard = new Recorded(port)
  class Quiet extends (Transport as unknown as new (device: unknown, tracing: boolean) => LoaderTransport) {
    override trace(): void {
      /* what goes over the line is nobody's business */
    }
  }
  const transport = new Quiet(heard, false)
  const baud = board.interpreter.baud || ROM_BAUD
  const loader = new ESPLoader({
    transport,
    baudrate: baud,
    romBaudrate: ROM_BAUD,
    terminal: { clean: () => undefined, write: () => undefined, writeLine: () => undefined },
  })
  let begun = false
  const work = async (): Promise<Written> => {
    told({ step: 'reaching' })
    const { chip, hardware } = await reach(loader, heard, board)
    told({ step: 'found', chip, hardware, flash: null })
    refuse(refusals(image, board, { chip, flash: null }))
    await loader.chip.postConnect?.(loader)
    await loader.runStub()
    if (baud !== ROM_BAUD) await loader.changeBaud()
    const flash = await flashOf(loader)
    told({ step: 'found', chip, hardware, flash })
    refuse(refusals(image, board, { chip, flash }))
    if (stopped()) throw new Stopped('Stopped: nothing was written.')
    if (erase) {
      told({ step: 'erasing' })
      begun = true
      await loader.eraseFlash()
    }
    begun = true
    await loader.writeFlash({
      fileArray: [{ data: file, address: at }],
      flashMode: 'keep',
      flashFreq: 'keep',
      flashSize: 'keep',
      eraseAll: false,
      compress: true,
      calculateMD5Hash: (bytes: Uint8Array) => bytesToHex(md5(bytes)),
      reportProgress: (_: number, done: number, of: number) => {
        if (stopped())
          throw new Stopped('Stopped while writing: the board has no whole interpreter now.', ['Write it again.'])
        told(done < of ? { step: 'writing', done, of } : { step: 'comparing' })
      },
    })
    told({ step: 'starting' })
    return { chip, hardware, flash, sha256: image.sha256 }
  }
  try {
    // The library would wait for answers of a port that has gone.
    const working = work()
    working.catch(() => undefined)
    return await Promise.race([working, heard.lost])
  } catch (e) {
    throw inWords(e, begun)
  } finally {
    await start(heard).catch(() => undefined)
    await transport.disconnect().catch(() => undefined)
  }
}

function refuse(reasons: readonly string[]): void {
  const [first, ...more] = reasons
  if (first !== undefined) throw new CableTrouble(`${first} Nothing was written.`, more)
}

async function reach(loader: Loader, heard: Recorded, board: Board): Promise<{ chip: Chip; hardware: string }> {
  try {
    await loader.detectChip('default_reset', ATTEMPTS)
  } catch (e) {
    if (e instanceof CableTrouble) throw e
    throw notReached(heard, board)
  }
  const chip = classOf(loader.chip)
  if (chip === null)
    throw new CableTrouble(
      `At the cable is ${className(null)}; this node’s board has ${className(board.interpreter.chip)}. Nothing was written.`,
    )
  return { chip, hardware: (await loader.chip.readMac(loader)).replaceAll(':', '').toLowerCase() }
}

async function flashOf(loader: Loader): Promise<number | null> {
  const id = await loader.readFlashId()
  // The third byte is the power of two of its size.
  const power = (id >> 16) & 0xff
  return id === 0xffffff || id === 0 || power < 0x12 || power > 0x1f ? null : 2 ** power
}

/** Nothing of the loader was heard: what was heard instead tells why. */
function notReached(heard: Recorded, board: Board): CableTrouble {
  const hold = board.download?.hold ?? ''
  if (heard.bytes === 0)
    return new CableTrouble('Nothing came back from the board.', [
      ...(board.usb === 'none'
        ? [
            'The two data lines of the adapter have to cross: its TX to the board’s RX, its RX to the board’s TX. Swap them.',
            `The board has to be in download mode by hand: ${hold}`,
            'Ground to ground; the adapter at 3.3 V; the board fed from its own supply.',
          ]
        : [`Put it into download mode by hand: ${hold}`, 'Another cable: many only charge.', 'Another of the ports.']),
      'The board is held in its reset, or has no supply: measure both.',
    ])
  const reading = readStartup(heard.text, { chip: board.interpreter.chip, usb: board.usb })
  if (/waiting for download/.test(heard.text))
    return new CableTrouble('The board is in download mode and does not hear us.', [
      'The line from the adapter’s TX to the board’s RX: it is the one that fails.',
      'A part on the pins of the console, such as a radio receiver: take it off while writing.',
    ])
  if (reading.head.kind === 'wrong')
    return new CableTrouble(`The board starts instead of waiting to be written, and says: ${reading.head.text}`, [
      ...reading.head.next,
      `Then put it into download mode by hand: ${hold}`,
    ])
  return new CableTrouble('The board starts its program instead of waiting to be written.', [
    `Put it into download mode by hand: ${hold}`,
    'A part that holds the button’s pin high keeps it from download mode: take it off.',
  ])
}

/** By the line that resets it; where that is not connected, somebody presses the button. */
async function start(port: CablePort): Promise<void> {
  await port.setSignals({ dataTerminalReady: false, requestToSend: true })
  await wait(100)
  await port.setSignals({ dataTerminalReady: false, requestToSend: false })
}

function inWords(e: unknown, begun: boolean): CableTrouble {
  if (e instanceof CableTrouble) return e
  const said = e instanceof Error ? e.message : String(e)
  const after = begun
    ? 'The board has no whole interpreter now: write it again; its own loader always answers.'
    : 'Nothing was written.'
  if (/MD5/.test(said))
    return new CableTrouble(`What the board holds is not what was sent. ${after}`, [
      'Again at 115 200 baud, with a shorter cable.',
      'It happens twice: another board.',
    ])
  if (/lost|closed|not open|disconnect|No serial data|stream stopped|released|locked/i.test(said))
    return new CableTrouble(`The cable came off, or the board lost its supply. ${after}`, [
      'Plug it in again and choose the port anew.',
      'A short cable, straight at the computer rather than at a hub.',
    ])
  return new CableTrouble(`The loader did not do as it was told (${said.slice(0, 120)}). ${after}`, [
    'Take the supply away for ten seconds and try again.',
    'Again at 115 200 baud, with a shorter cable.',
  ])
}
