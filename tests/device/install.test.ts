import { platformOf } from '../../src/core/bundle/chipClass'
import { execFileSync, spawnSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { Duplex } from 'node:stream'
import { strFromU8, unzipSync, zipSync } from 'fflate'
import { describe, expect, test } from 'vitest'
import { boardFiles } from '../../src/cable/boardFiles'
import { BoardSilent, putFiles } from '../../src/cable/putFiles'
import { TextLine } from '../../src/cable/textLine'
import { duplexPort } from '../support/duplexPort'
import { sha256Hex } from '../../src/core/hash/sha256Hex'
import { neededModules } from '../../src/core/bundle/neededModules'
import { compile } from '../../src/core/nodefile/compile'
import { nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { readRuntime } from '../../src/server/nodes/installBundle'
import { SimulatedBoard } from '../../standins/board/board'
import { after, blank, catalog } from '../support/designs'
import { tempFolder } from '../support/product'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

const out = path.join(tempFolder(), 'tank.zip')
const vivid = (...args: string[]) => execFileSync(process.execPath, ['build/vivid.mjs', ...args], { encoding: 'utf8' })

describe('vivid bundle', () => {
  test('writes a zip whose checksums are right and that has no password in it', () => {
    const bundle = ['bundle', 'demo/designs/slip-tank.json', '--broker', '192.0.2.7:1884']
    const refused = (...more: string[]) => {
      const { status, stdout } = spawnSync(process.execPath, ['build/vivid.mjs', ...bundle, ...more], {
        encoding: 'utf8',
      })
      return { status, stdout }
    }
    // A pump that does not stop wants a name under its caution, and a pin at 5 V a name for going on all the same.
    expect(refused()).toMatchObject({ status: 1, stdout: expect.stringMatching(/weld shut[\s\S]*--signed NAME/) })
    expect(refused('--past', 'bench')).toMatchObject({ status: 1, stdout: expect.stringMatching(/--signed NAME/) })
    expect(refused('--signed', 'bench')).toMatchObject({
      status: 1,
      stdout: expect.stringMatching(/ECHO can reach 5\.00 V[\s\S]*--past NAME/),
    })
    expect(vivid(...bundle, '--signed', 'bench', '--past', 'bench', out)).toMatch(/no passwords/)
    const steps = strFromU8(unzipSync(fs.readFileSync(out))['INSTALL.txt'] ?? new Uint8Array())
    expect(steps).toMatch(
      /1\. Stops stood against this design {2}\(caution\)[\s\S]*ECHO can reach 5\.00 V[\s\S]*bench went on/,
    )
    const entries = unzipSync(fs.readFileSync(out))
    for (const line of strFromU8(entries.SHA256SUMS ?? new Uint8Array())
      .trim()
      .split('\n')) {
      const [sum, name = ''] = line.split('  ')
      expect(sha256Hex(entries[name] ?? new Uint8Array()), name).toBe(sum)
    }
    expect(() => boardFiles(fs.readFileSync(out))).toThrow(/no passwords/)
  })
  test('a bundle without passwords is completed from its filled-in example, and says what is still missing', () => {
    const secret = path.join(tempFolder(), 'secret.json')
    const whole = path.join(path.dirname(secret), 'whole.zip')
    const example = strFromU8(unzipSync(fs.readFileSync(out))['secret.example.json'] ?? new Uint8Array())
    fs.writeFileSync(secret, example)
    const run = () =>
      spawnSync(process.execPath, ['build/vivid.mjs', 'complete', out, secret, whole], { encoding: 'utf8' })
    expect(run()).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/secret\.json:\d+:\d+.*still to be filled in: (its password|the access point)/),
    })
    fs.writeFileSync(
      secret,
      example
        .replace('"name": "…"', '"name": "kestrel-yard"')
        .replaceAll('"password": "…"', '"password": "clay-and-water"'),
    )
    expect(run()).toMatchObject({ status: 0, stdout: expect.stringMatching(/delete it once the board is written/) })
    const files = boardFiles(fs.readFileSync(whole))
    const put = JSON.parse(strFromU8(files.get('secret.json') ?? new Uint8Array())) as {
      key: string
      networks: unknown
    }
    expect(put.key).toMatch(/^[0-9a-f]{96}$/)
    expect(put.networks).toEqual({ house: [{ name: 'kestrel-yard', password: 'clay-and-water' }] })
    expect(fs.statSync(whole).mode & 0o077).toBe(0)
  })
  test('a bundle that was changed on the way is refused by name', () => {
    const entries = { ...unzipSync(fs.readFileSync(out)) }
    entries['board/node.json'] = Buffer.from('{}')
    expect(() => boardFiles(zipSync(entries))).toThrow(/board\/node\.json is not as it was written/)
  })
})

/** One board and its serial line, which can come off after so many bytes. One interpreter for all of this file. */
const FLASH = tempFolder()
const NODE = blank('board-32-30')
const fileOf = (revision: number, sleeps = false) => {
  const design = sleeps ? after(NODE, { kind: 'sleep', everyS: 30 }) : NODE
  const made = compile(design, NO_SURROUNDINGS, catalog, { host: '192.0.2.1', port: 1883, root: 'vn' }, revision)
  if (!made.ok) throw new Error(made.reasons.join())
  return made.compiled.text
}
const secret = JSON.stringify({
  broker: { name: 'n', password: 'p' },
  networks: { house: [] },
  key: '00'.repeat(48),
  n: 0,
  π: 'ÿ',
})
const bundle = (revision: number, sleeps = false) => {
  const { sources, compiled } = readRuntime('.', '32-class')
  const modules = neededModules(nodeFileSchema.parse(JSON.parse(fileOf(revision, sleeps))), sources, '32-class')
  return new Map<string, Uint8Array>([
    ...modules
      .map((m) => m.replace(/(?<!main)\.py$/, '.mpy'))
      .map((m) => [m, compiled[m] ?? new Uint8Array()] as const),
    ['node.json', Buffer.from(fileOf(revision, sleeps))],
    ['td.json', Buffer.from('{}')],
    ['secret.json', Buffer.from(secret)],
  ])
}
let heard: (b: Uint8Array) => void = () => undefined
let nowMs = 0
const air = {
  isCut: false,
  setCut: () => undefined,
  open: () => 1,
  connect: () => undefined,
  state: () => 'connecting' as const,
  room: () => 0,
  send: () => undefined,
  receive: () => '',
  waiting: () => false,
  close: () => undefined,
  certificate: () => '',
  silence: () => undefined,
  closeAll: () => undefined,
}
fs.mkdirSync(path.join(FLASH, 'empty'))
const board = await SimulatedBoard.start({
  flashDir: FLASH,
  deviceDir: path.join(FLASH, 'empty'),
  sourceDir: 'device',
  shimDir: 'standins/board/shims',
  random: () => 0.5,
  log: () => undefined,
  console: (b) => heard(b),
  chip: '32-class',
  link: air,
  now: () => nowMs,
})

/** The serial line: bytes both ways, time going on meanwhile; `cutAfter` bytes to the board it comes off. */
function serial({ cutAfter = Infinity, spoil = (b: number, _: number) => b } = {}): Duplex {
  let n = 0
  const clock = setInterval(() => {
    nowMs += 100
    board.step()
  }, 5)
  const line: Duplex = new Duplex({
    read() {
      /* pushed as it comes */
    },
    write(chunk: Buffer, _encoding, done) {
      const whole = chunk.subarray(0, Math.max(0, cutAfter - n))
      board.type(whole.map((b, i) => spoil(b, n + i)))
      n += chunk.length
      if (n >= cutAfter) line.destroy()
      done()
    },
    destroy(e, done) {
      clearInterval(clock)
      done(e)
    },
  })
  line.on('error', () => undefined)
  heard = (b) => {
    if (!line.destroyed) line.push(Buffer.from(b))
  }
  return line
}
/** `python` runs beside the program; what it prints is what is asked. */
const ask = (code: string): string => {
  let out = ''
  heard = (b) => {
    out += Buffer.from(b).toString()
  }
  board.python(code)
  return out.trim()
}
const revisionRunning = () => {
  for (let i = 0; i < 40; i++) {
    nowMs += 100
    board.step()
  }
  return board.atPrompt ? null : Number(ask('print(_run.node.revision)'))
}
const install = async (
  revision: number,
  {
    cutAfter,
    spoil,
    sleeps,
    patienceMs = 2000,
    platform = platformOf('32-class'),
  }: {
    cutAfter?: number
    spoil?: (b: number, n: number) => number
    sleeps?: boolean
    patienceMs?: number
    platform?: string
  } = {},
) => {
  const line = serial({ cutAfter, spoil })
  const told: string[] = []
  let sent = 0
  const write = line.write.bind(line) as (c: Uint8Array, done: unknown) => boolean
  line.write = ((c: Uint8Array, done: unknown) => {
    sent += c.length
    return write(c, done)
  }) as typeof line.write
  try {
    await putFiles(await TextLine.open(duplexPort(line), 115_200), {
      files: bundle(revision, sleeps),
      platform,
      patienceMs,
      told: (what) => told.push(what),
    })
  } finally {
    line.destroy()
  }
  return { told, sent }
}

describe('onto a board', () => {
  test('a new one: every file byte for byte, and the program runs', async () => {
    expect(board.atPrompt).toBe(true)
    const { told } = await install(1)
    expect(told).toEqual([...bundle(1).keys()])
    for (const [name, content] of bundle(1))
      expect(
        ask(
          `import hashlib, binascii\nprint(binascii.hexlify(hashlib.sha256(open('/${name}', 'rb').read()).digest()).decode())`,
        ),
        name,
      ).toBe(sha256Hex(content))
    expect(revisionRunning()).toBe(1)
  })

  test('a running one: interrupted, held without its watchdog, written, started; what an older installation left is gone', async () => {
    ask("f = open('/vn/node.py', 'w')\nf.write('raise SystemExit')\nf.close()")
    const starts = board.starts.length
    const { told } = await install(2)
    expect(told[0]).toMatch(/held at its prompt/)
    expect(revisionRunning()).toBe(2)
    expect(board.starts.slice(starts)).toEqual(['program', 'program'])
  })

  test('without the hold its watchdog ends the installation half-way', () => {
    // The control: interrupted and left at the prompt, the started watchdog bites.
    const starts = board.starts.length
    board.type(Buffer.from([3]))
    expect(board.atPrompt).toBe(true)
    for (let i = 0; i < 90; i++) {
      nowMs += 100
      board.step()
    }
    expect(board.starts.slice(starts)).toEqual(['watchdog'])
  })

  test('one that crashes again and again', async () => {
    ask("f = open('/secret.json', 'w')\nf.write('{')\nf.close()")
    board.power()
    for (let i = 0; i < 300; i++) {
      nowMs += 100
      board.step()
    }
    expect(JSON.parse(ask("print(open('/crash.json').read())"))).toMatchObject({ n: 4 })
    await install(3)
    expect(revisionRunning()).toBe(3)
  })

  test('one that sleeps is knocked at until it wakes', async () => {
    await install(4, { sleeps: true })
    for (let i = 0; i < 400 && !board.asleep; i++) {
      nowMs += 100
      board.step()
    }
    expect(board.asleep).toBe(true)
    await install(5, { patienceMs: 10_000 })
    expect(revisionRunning()).toBe(5)
  })

  // As many as wanted: forty take a minute.
  const CUTS = Number(process.env.CUTS ?? 12)
  test('cut at seeded moments: the old program, or the prompt; the same again finishes it', async () => {
    const { sent } = await install(6)
    for (let k = 0; k < CUTS; k++) {
      const revision = 7 + k
      await expect(
        install(revision, { cutAfter: Math.floor((sent * (k + 0.5)) / CUTS), patienceMs: 400 }).then(() => null),
      ).rejects.toThrow()
      board.power()
      const now = revisionRunning()
      expect(now === null ? board.atPrompt : now, `cut ${k}`).toBe(now === null ? true : revision - 1)
      await install(revision)
      expect(revisionRunning(), `after cut ${k}`).toBe(revision)
    }
  }, 240_000)

  test('a byte damaged on the line is found by its checksum', async () => {
    let spoilt = false
    await expect(
      install(60, {
        spoil: (byte, n) => {
          if (spoilt || n < 4000 || byte !== 0x37) return byte
          spoilt = true
          return 0x36
        },
      }),
    ).rejects.toThrow(/did not arrive whole|refused/)
  })

  test('another chip’s bundle, an interpreter of another age, a port where nobody answers: said, and nothing written', async () => {
    await expect(install(61, { platform: 'rp2' })).rejects.toThrow(
      new RegExp(`calls itself rp2; the one at this port is ${platformOf('32-class')}. Nothing`),
    )
    board.python('import sys\nclass _Old:\n    _mpy = 5\nsys.implementation = _Old')
    await expect(install(61)).rejects.toThrow(/version 5; these are of version 6/)
    const dead = new Duplex({
      read() {
        /* nothing comes */
      },
      write(_c, _e, done) {
        done()
      },
    })
    await expect(
      putFiles(await TextLine.open(duplexPort(dead), 115_200), {
        files: bundle(1),
        platform: platformOf('32-class'),
        patienceMs: 800,
        told: () => undefined,
      }),
    ).rejects.toThrow(BoardSilent)
  })
})
