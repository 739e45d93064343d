import { execFileSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { Duplex } from 'node:stream'
import { strFromU8, unzipSync, zipSync } from 'fflate'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { describe, expect, test } from 'vitest'
import { boardFiles } from '../../src/cli/bundle'
import { BoardSilent, putFiles } from '../../src/cli/putFiles'
import { sha256Hex } from '../../src/core/hash/sha256Hex'
import { tempFolder } from '../support/product'

const out = path.join(tempFolder(), 'tank.zip')
const vivid = (...args: string[]) => execFileSync(process.execPath, ['build/vivid.mjs', ...args], { encoding: 'utf8' })

/** The interpreter's own raw mode behind a line that delivers in small pieces, as a serial port does. */
async function interpreterLine(spoil: (byte: number, n: number) => number = (b) => b) {
  let line: Duplex | null = null
  const mp = await loadMicroPython({ stdout: (bytes: unknown) => line?.push(Buffer.from(bytes as Uint8Array)), linebuffer: false })
  ;(mp as unknown as { replInit(): void }).replInit()
  let n = 0
  line = new Duplex({
    read() { /* pushed as it comes */ },
    write(chunk: Buffer, _encoding, done) {
      for (const byte of chunk) (mp as unknown as { replProcessChar(c: number): number }).replProcessChar(spoil(byte, n++))
      done()
    },
  })
  return { mp, line }
}

describe('vivid bundle', () => {
  test('writes a zip whose checksums are right and that has no password in it', () => {
    expect(vivid('bundle', 'demo/designs/slip-tank.json', out)).toMatch(/no passwords/)
    const entries = unzipSync(fs.readFileSync(out))
    for (const line of strFromU8(entries.SHA256SUMS ?? new Uint8Array()).trim().split('\n')) {
      const [sum, name = ''] = line.split('  ')
      expect(sha256Hex(strFromU8(entries[name] ?? new Uint8Array())), name).toBe(sum)
    }
    expect(() => boardFiles(fs.readFileSync(out))).toThrow(/no passwords/)
  })
  test('a bundle that was changed on the way is refused by name', () => {
    const entries = { ...unzipSync(fs.readFileSync(out)) }
    entries['board/node.json'] = Buffer.from('{}')
    expect(() => boardFiles(zipSync(entries))).toThrow(/board\/node\.json is not as it was written/)
  })
})

describe('onto a board', () => {
  const files = new Map([...Object.entries(unzipOf()), ['secret.json', Buffer.from('{"key":"ab","π":"\\u0000ÿ"}')] as const])
  function unzipOf(): Record<string, Uint8Array> {
    const runtime = (dir: string, at = ''): Record<string, Uint8Array> => Object.assign({}, ...fs.readdirSync(dir, { withFileTypes: true }).map((e) => (e.isDirectory() ? runtime(path.join(dir, e.name), `${at}${e.name}/`) : { [at + e.name]: fs.readFileSync(path.join(dir, e.name)) })))
    return { 'vn/chips/light_23.py': runtime('device')['vn/chips/light_23.py'] ?? new Uint8Array(), 'vn/debounce.py': runtime('device')['vn/debounce.py'] ?? new Uint8Array() }
  }

  test('every file arrives byte for byte, in its folder', async () => {
    const { mp, line } = await interpreterLine()
    const told: string[] = []
    await putFiles(line, files, (p) => told.push(p))
    expect(told).toEqual([...files.keys()])
    for (const [name, content] of files) expect(Buffer.from(mp.FS.readFile(`/${name}`)).equals(Buffer.from(content)), name).toBe(true)
  })

  test('a byte damaged on the line is found by its checksum', async () => {
    let spoilt = false
    const { line } = await interpreterLine((byte, n) => {
      // One letter of a hexadecimal byte, once, somewhere in the middle.
      if (spoilt || n < 900 || byte !== 0x37) return byte
      spoilt = true
      return 0x36
    })
    await expect(putFiles(line, files, () => undefined)).rejects.toThrow(/did not arrive whole|refused/)
  })

  test('a port where nobody answers says so', async () => {
    const dead = new Duplex({ read() { /* nothing comes */ }, write(_c, _e, done) { done() } })
    await expect(putFiles(dead, files, () => undefined)).rejects.toThrow(BoardSilent)
  })
})
