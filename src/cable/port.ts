/**
 * A serial port with its two control lines: what the browser's own ports are (the Web Serial specification), and what
 * the command and the simulated board look like from here.
 */
export interface CablePort {
  readonly readable: ReadableStream<Uint8Array> | null
  readonly writable: WritableStream<Uint8Array> | null
  open(options: { baudRate: number; bufferSize?: number }): Promise<void>
  close(): Promise<void>
  setSignals(signals: { dataTerminalReady?: boolean; requestToSend?: boolean; break?: boolean }): Promise<void>
  getInfo(): { usbVendorId?: number; usbProductId?: number }
}

/** What went wrong at the cable, in words, and what to try in order. */
export class CableTrouble extends Error {
  constructor(
    what: string,
    readonly next: readonly string[] = [],
  ) {
    super(what)
  }
}

/** Somebody stopped it. */
export class Stopped extends CableTrouble {}

export const wait = (ms: number): Promise<void> => new Promise((r) => setTimeout(r, ms))

/** What to try where no port appears, in the order that costs least. */
export const NO_PORT: readonly string[] = [
  'Another cable: many only charge and have no data wires.',
  'Another socket of the computer, straight and not through a hub; a board with two sockets has one for USB of the chip and one for the bridge.',
  'The driver of the board’s bridge is missing.',
  'A board with USB in the chip that sleeps or restarts takes its port along: hold its button while the cable goes in.',
]
/** A port that has just gone away comes back within this, ms. */
const BACK_MS = 4000

/** Opens a port, again and again for a while where it is not there: some take their port along when they start anew. */
export async function openPatiently(
  port: CablePort,
  options: { baudRate: number; bufferSize?: number },
  ms = BACK_MS,
): Promise<void> {
  for (const end = Date.now() + ms; ;) {
    try {
      return await port.open(options)
    } catch (e) {
      if (Date.now() >= end)
        throw e instanceof CableTrouble
          ? e
          : new CableTrouble(`The port cannot be opened: ${e instanceof Error ? e.message : String(e)}`, BUSY)
      await wait(200)
    }
  }
}

const BUSY: readonly string[] = [
  'Another program has it open: a terminal, another page, an installation that still runs. Close that.',
  'Pull the cable, plug it in again, and choose the port anew.',
]
/** The system's own words for why a port does not open. */
export const busy = (why: string): CableTrouble => new CableTrouble(`The port cannot be opened: ${why}`, BUSY)
