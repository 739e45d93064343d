import type { Board } from '../core/catalog/board'
import { readStartup } from '../core/startup/readStartup'
import type { CablePort } from './port'
import { TextLine } from './textLine'

/** Interpreter and runtime speak at this baud. */
export const BAUD = 115_200
/** A node has joined its network and its broker by then, ms; a sleeping one may say nothing more. */
const LISTEN_MS = 30_000
/** Nothing more comes after this much quiet once the node is in service, ms. */
const QUIET_MS = 1500
/** Nothing at all for so long: nothing comes, ms. */
const SILENT_MS = 8000
/** Something is wrong and nothing more comes for so long, ms. */
const WRONG_MS = 4000
const KEPT = 64 * 1024

/** How a board is listened to. */
export interface Listening {
  baud?: number
  reset: boolean
  board: Board
  stopped: () => boolean
  heard: (text: string) => void
}

/** Hears the board until it is in service, somebody stops it, or long enough. A port that goes away is opened again. */
export async function listen(
  port: CablePort,
  { baud = BAUD, reset, board, stopped, heard }: Listening,
): Promise<string> {
  let text = ''
  let last = Date.now()
  const take = (part: string) => {
    text = (text + part).slice(-KEPT)
    last = Date.now()
    heard(text)
  }
  const end = Date.now() + LISTEN_MS
  let first = reset
  while (Date.now() < end && !stopped()) {
    let line: TextLine
    try {
      line = await TextLine.open(port, baud, take)
    } catch (e) {
      // A chip with USB of its own that has gone to sleep takes the port along: what it said stands.
      if (text !== '') return text
      throw e
    }
    if (first) await line.reset().catch(() => undefined)
    first = false
    while (!line.gone && Date.now() < end && !stopped()) {
      await new Promise((r) => setTimeout(r, 100))
      if (!isOver(text, Date.now() - last, board)) continue
      await line.close()
      return text
    }
    await line.close()
  }
  return text
}

/** It has said all it will: it is in service, something is wrong and stays so, or nothing comes at all. */
function isOver(text: string, quietMs: number, board: Board): boolean {
  if (text === '') return quietMs > SILENT_MS
  const { facts, head } = readStartup(text, { chip: board.interpreter.chip, usb: board.usb })
  if (head.kind === 'wrong') return quietMs > WRONG_MS
  return facts.broker === 0 && quietMs > QUIET_MS
}
