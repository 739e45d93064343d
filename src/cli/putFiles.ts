import type { Duplex } from 'node:stream'
import { createHash } from 'node:crypto'

export class BoardSilent extends Error {}

/** Bytes of a file that go out in one piece: well below what a small board's line buffer holds. */
const PIECE = 128
const ANSWER_MS = 10_000

/**
 * Writes files onto a board over its serial line, by the raw mode of its interpreter: stops what runs, makes folders, writes each file in pieces,
 * reads its checksum back, and starts the board anew. Throws BoardSilent when nothing answers, Error when a file does not arrive whole.
 */
export async function putFiles(port: Duplex, files: ReadonlyMap<string, Uint8Array>, told: (path: string, done: number, of: number) => void): Promise<void> {
  let heard = ''
  let wake = () => undefined as void
  port.on('data', (d: Buffer) => {
    heard += d.toString('latin1')
    wake()
  })
  const until = async (mark: string): Promise<string> => {
    const end = Date.now() + ANSWER_MS
    for (;;) {
      const at = heard.indexOf(mark)
      if (at >= 0) {
        const before = heard.slice(0, at)
        heard = heard.slice(at + mark.length)
        return before
      }
      const left = end - Date.now()
      if (left <= 0) throw new BoardSilent(`The board does not answer (waited for ${JSON.stringify(mark)}, heard ${JSON.stringify(heard.slice(-60))}). Is it the right port, and is the interpreter on the board?`)
      await new Promise<void>((r) => {
        const timer = setTimeout(r, left)
        wake = () => { clearTimeout(timer); r() }
      })
    }
  }
  const run = async (code: string): Promise<string> => {
    port.write(code)
    port.write('\x04')
    await until('OK')
    const out = await until('\x04')
    const error = await until('\x04')
    if (error.trim() !== '') throw new Error(`The board refused: ${error.trim().split('\n').at(-1) ?? ''}`)
    return out
  }

  // Twice, because a program that is just starting may swallow the first.
  port.write('\r\x03\x03')
  port.write('\r\x01')
  await until('raw REPL')
  await until('>')
  const folders = new Set([...files.keys()].flatMap((path) => path.split('/').slice(0, -1).map((_, i, all) => all.slice(0, i + 1).join('/'))))
  await run(`import os\nfor d in ${JSON.stringify([...folders])}:\n try: os.mkdir(d)\n except OSError: pass\n`)
  let n = 0
  for (const [path, content] of files) {
    await run(`_f = open(${JSON.stringify(path)}, 'wb')\n`)
    for (let at = 0; at < content.length; at += PIECE) await run(`_f.write(b'${[...content.subarray(at, at + PIECE)].map((b) => `\\x${b.toString(16).padStart(2, '0')}`).join('')}')\n`)
    const back = (await run(`_f.close()\nimport hashlib, binascii\n_h = hashlib.sha256()\nwith open(${JSON.stringify(path)}, 'rb') as _f:\n while True:\n  _b = _f.read(256)\n  if not _b: break\n  _h.update(_b)\nprint(binascii.hexlify(_h.digest()).decode())\n`)).trim()
    const wanted = createHash('sha256').update(content).digest('hex')
    if (back !== wanted) throw new Error(`${path} did not arrive whole: its checksum there is ${back.slice(0, 12)}…, ${wanted.slice(0, 12)}… was sent. Try again, with a shorter cable if it happens twice.`)
    told(path, ++n, files.size)
  }
  port.write('\x02')
  port.write('\x04')
}
