import type { Duplex } from 'node:stream'
import { createHash } from 'node:crypto'

export class BoardSilent extends Error {}

/** Bytes of a file that go out in one piece: well below what a small board's line buffer holds. */
const PIECE = 128
const ANSWER_MS = 10_000
/** How often a program that may just be starting is interrupted. */
const KNOCK_MS = 300
/** Version of compiled modules the bundle carries. */
const MPY = 6
/** While this file is there the board stays at its prompt, without a program and without a watchdog. */
const HOLD = 'hold'
const LEFT = ['crash.json', 'node.new', 'td.new', 'trial', 'keep', 'secret.try']

export interface Putting {
  files: ReadonlyMap<string, Uint8Array>
  /** `sys.platform` of the board the bundle is for. */
  platform: string
  /**
   * Opens the line again after the board has started anew; the port of some goes away then and comes back under another
   * name.
   */
  reopen?: () => Promise<Duplex>
  /** How long to knock before the board counts as silent, ms: longer than a sleeper sleeps. */
  patienceMs?: number
  told: (what: string, done: number, of: number) => void
}

/** A line to the interpreter's raw prompt. */
class RawPrompt {
  private heard = ''
  private wake: () => void = () => undefined
  gone = false

  constructor(private readonly port: Duplex) {
    port.on('data', (d: Buffer) => {
      this.heard += d.toString('latin1')
      this.wake()
    })
    for (const end of ['end', 'close', 'error'] as const)
      port.on(end, () => {
        this.gone = true
        this.wake()
      })
  }

  write(text: string): void {
    if (!this.gone) this.port.write(text)
  }

  /** What came before `mark`; null when it has not come in time or the line has ended. */
  async until(mark: string, ms: number): Promise<string | null> {
    const end = Date.now() + ms
    for (;;) {
      const at = this.heard.indexOf(mark)
      if (at >= 0) {
        const before = this.heard.slice(0, at)
        this.heard = this.heard.slice(at + mark.length)
        return before
      }
      const left = end - Date.now()
      if (left <= 0 || this.gone) return null
      await new Promise<void>((r) => {
        const timer = setTimeout(r, left)
        this.wake = () => {
          clearTimeout(timer)
          r()
        }
      })
    }
  }

  /**
   * Interrupts whatever runs until the raw prompt answers. A sleeping board hears nothing: it is knocked at until it
   * wakes.
   */
  async reach(patienceMs: number): Promise<void> {
    const end = Date.now() + patienceMs
    do {
      this.write('\r\x03\x03')
      await this.until('>>>', KNOCK_MS)
      this.heard = ''
      this.write('\r\x01')
      if ((await this.until('raw REPL', KNOCK_MS)) !== null && (await this.until('>', KNOCK_MS)) !== null) return
    } while (Date.now() < end && !this.gone)
    throw new BoardSilent(
      `The board does not answer (interrupted for ${Math.round(patienceMs / 1000)} s, heard ${JSON.stringify(this.heard.slice(-60))}). ` +
        'Is it the right port, and is the interpreter on the board? A node that sleeps hears nothing until it wakes: press its reset and try again at once.',
    )
  }

  async run(code: string): Promise<string> {
    this.write(code)
    this.write('\x04')
    const ok = await this.until('OK', ANSWER_MS)
    const out = ok === null ? null : await this.until('\x04', ANSWER_MS)
    const error = out === null ? null : await this.until('\x04', ANSWER_MS)
    if (out === null || error === null)
      throw new BoardSilent(
        'The board no longer answers: the cable came off, or it has started anew. Try again: what is on it stays at the prompt until it is whole.',
      )
    if (error.trim() !== '') throw new Error(`The board refused: ${error.trim().split('\n').at(-1) ?? ''}`)
    return out
  }
}

/**
 * Writes files onto a board over its serial line: interrupts what runs, holds the board at its prompt (a watchdog that
 * has been started cannot be stopped, so it starts anew without one), writes each file in pieces, reads its checksum
 * back, clears what an earlier installation left, lets go and starts. Cut at any moment, the board either still has its
 * old program or stays at the prompt; the same again finishes it. Throws BoardSilent when nothing answers, Error when
 * the interpreter is not the right one or a file does not arrive whole.
 */
export async function putFiles(
  port: Duplex,
  { files, platform, reopen, patienceMs = 15_000, told }: Putting,
): Promise<void> {
  let line = new RawPrompt(port)
  await line.reach(patienceMs)
  const [found = '', mpy = '0', running = ''] = (
    await line.run(
      `import sys\nprint(sys.platform, getattr(sys.implementation, '_mpy', 0) & 255, 'vn.start' in sys.modules)\n`,
    )
  )
    .trim()
    .split(' ')
  if (found !== platform)
    throw new Error(
      `This bundle is for a board whose interpreter calls itself ${platform}; the one at this port is ${found}. Nothing was written.`,
    )
  if (Number(mpy) !== MPY)
    throw new Error(
      `The interpreter on this board reads compiled modules of version ${mpy}; these are of version ${MPY}. Write an image of version 1.20 or later first. Nothing was written.`,
    )
  await line.run(`f = open('${HOLD}', 'wb')\nf.write(b'1')\nf.close()\n`)
  if (running === 'True') {
    told('held at its prompt, starting anew', 0, files.size)
    line.write('import machine\nmachine.reset()\n\x04')
    await line.until('\x04', 500)
    if (reopen) line = new RawPrompt(await reopen())
    await line.reach(patienceMs)
  }
  const folders = new Set(
    [...files.keys()].flatMap((path) =>
      path
        .split('/')
        .slice(0, -1)
        .map((_, i, all) => all.slice(0, i + 1).join('/')),
    ),
  )
  await line.run(`import os\nfor d in ${JSON.stringify([...folders])}:\n try: os.mkdir(d)\n except OSError: pass\n`)
  // What the former program left half-done, or died of, is not this one's.
  await line.run(`for f in ${JSON.stringify(LEFT)}:\n try: os.remove(f)\n except OSError: pass\n`)
  // A module as text would be taken before the compiled one of its name.
  await line.run(
    `keep = ${pythonSet([...files.keys()])}\nfor d in ${JSON.stringify([...folders])}:\n for f in os.listdir(d):\n  p = d + '/' + f\n  if p not in keep and (p.endswith('.py') or p.endswith('.mpy')): os.remove(p)\nkeep = None\n`,
  )
  let n = 0
  for (const [path, content] of files) {
    await line.run(`_f = open(${JSON.stringify(path)}, 'wb')\n`)
    for (let at = 0; at < content.length; at += PIECE)
      await line.run(
        `_f.write(b'${[...content.subarray(at, at + PIECE)].map((b) => `\\x${b.toString(16).padStart(2, '0')}`).join('')}')\n`,
      )
    const back = (
      await line.run(
        `_f.close()\nimport hashlib, binascii\n_h = hashlib.sha256()\nwith open(${JSON.stringify(path)}, 'rb') as _f:\n while True:\n  _b = _f.read(256)\n  if not _b: break\n  _h.update(_b)\nprint(binascii.hexlify(_h.digest()).decode())\n`,
      )
    ).trim()
    const wanted = createHash('sha256').update(content).digest('hex')
    if (back !== wanted)
      throw new Error(
        `${path} did not arrive whole: its checksum there is ${back.slice(0, 12)}…, ${wanted.slice(0, 12)}… was sent. Try again, with a shorter cable if it happens twice.`,
      )
    told(path, ++n, files.size)
  }
  await line.run(`os.remove('${HOLD}')\n`)
  line.write('import machine\nmachine.reset()\n\x04')
  await line.until('\x04', 300)
}

const pythonSet = (words: readonly string[]): string => `set(${JSON.stringify(words)})`
