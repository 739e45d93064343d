import { sha256Hex } from '../core/hash/sha256Hex'
import { CableTrouble, Stopped } from './port'
import type { TextLine } from './textLine'

export class BoardSilent extends CableTrouble {}

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
  reopen?: () => Promise<TextLine>
  /** How long to knock before the board counts as silent, ms: longer than a sleeper sleeps. */
  patienceMs?: number
  told: (what: string, done: number, of: number) => void
  /** True as soon as somebody wants it to stop. */
  stopped?: () => boolean
}

/** The interpreter's raw prompt at the other end of a line. */
class RawPrompt {
  constructor(private readonly line: TextLine) {}

  /**
   * Interrupts whatever runs until the raw prompt answers. A sleeping board hears nothing: it is knocked at until it
   * wakes.
   */
  async reach(patienceMs: number, stopped: () => boolean): Promise<void> {
    const { line } = this
    const end = Date.now() + patienceMs
    do {
      if (stopped()) throw new Stopped('Stopped while knocking: nothing was written.')
      await line.write('\r\x03\x03')
      await line.until('>>>', KNOCK_MS)
      line.forget()
      await line.write('\r\x01')
      if ((await line.until('raw REPL', KNOCK_MS)) !== null && (await line.until('>', KNOCK_MS)) !== null) return
    } while (Date.now() < end && !line.gone)
    throw new BoardSilent(
      `The board does not answer (interrupted for ${Math.round(patienceMs / 1000)} s, heard ${JSON.stringify(line.tail)}).`,
      [
        'Is it the right port, and is the interpreter on the board?',
        'A node that sleeps hears nothing until it wakes: press its reset and try again at once.',
      ],
    )
  }

  async run(code: string): Promise<string> {
    const { line } = this
    await line.write(`${code}\x04`)
    const ok = await line.until('OK', ANSWER_MS)
    const out = ok === null ? null : await line.until('\x04', ANSWER_MS)
    const error = out === null ? null : await line.until('\x04', ANSWER_MS)
    if (out === null || error === null)
      throw new BoardSilent('The board no longer answers: the cable came off, or it has started anew.', [
        'Install again: what is on it stays at the prompt until it is whole.',
      ])
    if (error.trim() !== '') throw new CableTrouble(`The board refused: ${error.trim().split('\n').at(-1) ?? ''}`)
    return out
  }

  /** Starts the chip anew; nothing answers that. */
  async startAnew(): Promise<void> {
    await this.line.write('import machine\nmachine.reset()\n\x04')
    await this.line.until('\x04', 500)
  }
}

/** What the prompt says of the board. */
export interface AtPrompt {
  /** `sys.platform`. */
  platform: string
  /** Version of compiled modules it reads. */
  mpy: number
  /** The runtime is running. */
  running: boolean
  /** Hardware address, twelve hexadecimal digits; null for a board without a network. */
  hardware: string | null
  /** Version of the interpreter. */
  version: string
}

const WHO = `import sys
def _w():
 try:
  import network, binascii
  return binascii.hexlify(network.WLAN(network.STA_IF).config('mac')).decode()
 except Exception:
  return '-'
print(sys.platform, getattr(sys.implementation, '_mpy', 0) & 255, 'vn.start' in sys.modules, _w(), '.'.join(str(n) for n in getattr(sys.implementation, 'version', ())[:3]))
`

async function whoIsThere(prompt: RawPrompt): Promise<AtPrompt> {
  const [platform = '', mpy = '0', running = '', hardware = '-', version = ''] = (await prompt.run(WHO))
    .trim()
    .split(' ')
  return {
    platform,
    mpy: Number(mpy),
    running: running === 'True',
    hardware: /^[0-9a-f]{12}$/.test(hardware) ? hardware : null,
    version,
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
  at: TextLine,
  { files, platform, reopen, patienceMs = 15_000, told, stopped = () => false }: Putting,
): Promise<AtPrompt> {
  let line = new RawPrompt(at)
  await line.reach(patienceMs, stopped)
  const found = await whoIsThere(line)
  if (found.platform !== platform)
    throw new CableTrouble(
      `This bundle is for a board whose interpreter calls itself ${platform}; the one at this port is ${found.platform}. Nothing was written.`,
    )
  if (found.mpy !== MPY)
    throw new CableTrouble(
      `The interpreter on this board reads compiled modules of version ${found.mpy}; these are of version ${MPY}. Write an image of version 1.20 or later first. Nothing was written.`,
    )
  await line.run(`f = open('${HOLD}', 'wb')\nf.write(b'1')\nf.close()\n`)
  if (found.running) {
    told('held at its prompt, starting anew', 0, files.size)
    await line.startAnew()
    if (reopen) line = new RawPrompt(await reopen())
    await line.reach(patienceMs, stopped)
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
    if (stopped())
      throw new Stopped('Stopped: the board stays at its prompt until it is whole.', ['Install again to finish it.'])
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
    const wanted = sha256Hex(content)
    if (back !== wanted)
      throw new CableTrouble(
        `${path} did not arrive whole: its checksum there is ${back.slice(0, 12)}…, ${wanted.slice(0, 12)}… was sent. Try again, with a shorter cable if it happens twice.`,
      )
    told(path, ++n, files.size)
  }
  await line.run(`os.remove('${HOLD}')\n`)
  await line.startAnew()
  return found
}

const pythonSet = (words: readonly string[]): string => `set(${JSON.stringify(words)})`
