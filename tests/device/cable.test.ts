import { execFile } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { CableTrouble } from '../../src/cable/port'
import { writeImage, type WritingStep } from '../../src/cable/writeImage'
import type { Chip } from '../../src/core/bundle/chipClass'
import { readStartup } from '../../src/core/startup/readStartup'
import { plugIn } from '../support/cable'
import { cutWhileWriting, heardAfterReset } from '../support/cuts'
import { catalog } from '../support/designs'
import { madeImage } from '../../standins/cable/madeImage'
import { tempFolder } from '../support/product'

const boardOf = (chip: Chip, usb?: string) => {
  const board = Object.values(catalog.boards).find((b) => b.interpreter.chip === chip)
  if (!board) throw new Error(chip)
  return usb === undefined ? board : { ...board, usb: usb as typeof board.usb }
}
const CLASSES = ['32-class', 'c3-class', 's3-class', 'c6-class', '8266-class'] as const
type Cable = Awaited<ReturnType<typeof plugIn>>
const troubleOf = (work: Promise<unknown>): Promise<CableTrouble | null> =>
  work.then(
    () => null,
    (e: unknown) => e as CableTrouble,
  )

describe('an empty board of each class: what it says, what is found, written, compared, alive', () => {
  test.each(CLASSES)(
    '%s',
    async (chip) => {
      const cable = await plugIn(chip)
      try {
        const baud = chip === '8266-class' ? 74_880 : 115_200
        const before = readStartup(await heardAfterReset(cable.port(), { baud, ms: 400 }), { chip })
        expect(before.head.text).toMatch(chip === '8266-class' ? /no program/ : /flash is empty/)
        const steps: WritingStep[] = []
        const written = await writeImage({
          port: cable.port(),
          image: madeImage(chip),
          board: boardOf(chip),
          erase: true,
          told: (s) => steps.push(s),
        })
        expect(written).toMatchObject({ chip, hardware: '24a1600b7c3e', flash: 4 * 1024 * 1024 })
        expect([...new Set(steps.map((s) => s.step))]).toEqual([
          'reaching',
          'found',
          'erasing',
          'writing',
          'comparing',
          'starting',
        ])
        const after = readStartup(await heardAfterReset(cable.port()), { chip })
        expect(after.head).toMatchObject({ kind: 'fine', text: expect.stringMatching(/alive and no program/) })
      } finally {
        await cable.end()
      }
    },
    30_000,
  )
})

describe('what may be the matter is named', () => {
  let cable: Cable
  const folder = tempFolder()
  beforeAll(async () => {
    cable = await plugIn('32-class', { folder })
    await writeImage({
      port: cable.port(),
      image: madeImage('32-class'),
      board: boardOf('32-class'),
      erase: true,
      told: () => undefined,
    })
  })
  afterAll(() => cable.end())
  const write = (image = madeImage('32-class'), board = boardOf('32-class'), stopped?: () => boolean) =>
    writeImage({ port: cable.port(), image, board, erase: true, told: () => undefined, stopped })

  test('another chip, and an image for another: refused before anything is erased', async () => {
    const other = await troubleOf(write(madeImage('s3-class'), boardOf('s3-class')))
    expect(other?.message).toMatch(
      /At the cable is the 32-class; this node’s board .* the S3-class.*Nothing was written/,
    )
    expect((await troubleOf(write(madeImage('c3-class'))))?.message).toMatch(/The image is for the C3-class/)
    expect(readStartup(await heardAfterReset(cable.port())).head.text).toMatch(/alive/)
  })
  test('a cable that only charges, crossed lines', async () => {
    cable.tell({ trouble: 'charging only' })
    expect(await troubleOf(write())).toMatchObject({
      message: expect.stringMatching(/There is no port/),
      next: expect.arrayContaining([expect.stringMatching(/only charge/)]),
    })
    cable.tell({ trouble: 'crossed' })
    const crossed = await troubleOf(write(undefined, boardOf('32-class', 'none')))
    expect(crossed?.message).toMatch(/Nothing came back/)
    expect(crossed?.next[0]).toMatch(/have to cross/)
  }, 30_000)
  test('a strap held low and one held high: by its start-up text', async () => {
    const said = async (trouble: 'strap held' | '12 high') => {
      cable.tell({ trouble })
      return readStartup(await heardAfterReset(cable.port(), { ms: 400 }), { chip: '32-class' }).head
    }
    expect(await said('strap held')).toMatchObject({ kind: 'wrong', text: expect.stringMatching(/pin 0 was low/) })
    expect(await said('12 high')).toMatchObject({ kind: 'wrong', text: expect.stringMatching(/pin 12/) })
  }, 30_000)
  test('stopped while writing: said, and the same again mends it', async () => {
    cable.tell({ trouble: 'none' })
    let asked = 0
    const stopped = await troubleOf(write(undefined, undefined, () => ++asked > 3))
    expect(stopped?.message).toMatch(/Stopped while writing: the board has no whole interpreter now/)
    expect(readStartup(await heardAfterReset(cable.port())).head.kind).toBe('wrong')
    await write()
    expect(readStartup(await heardAfterReset(cable.port())).head.kind).toBe('fine')
  }, 30_000)
  test('a cable pulled at random moments leaves the old interpreter, or a board that says what to do', async () => {
    const { kept, said, odd } = await cutWhileWriting(cable, boardOf('32-class'), 5)
    expect(odd).toEqual([])
    expect(kept + said).toBe(5)
    expect(said).toBeGreaterThan(0)
  }, 60_000)
})

test('by the commands: image, then a node’s files, and it starts', async () => {
  const run = promisify(execFile)
  const vivid = (...args: string[]) => run(process.execPath, ['build/vivid.mjs', ...args], { encoding: 'utf8' })
  const folder = tempFolder()
  const cable = await plugIn('32-class')
  try {
    fs.writeFileSync(path.join(folder, 'image.bin'), madeImage('32-class'))
    const written = await vivid('write', path.join(folder, 'image.bin'), cable.name)
    expect(written.stdout).toMatch(
      /Found the 32-class, hardware address 24a1600b7c3e, 4 MB of flash[\s\S]*Written and compared/,
    )
    // What it says is read by the third command.
    const text = await heardAfterReset(cable.port())
    fs.writeFileSync(path.join(folder, 'start.txt'), text, 'latin1')
    expect((await vivid('boot', path.join(folder, 'start.txt'))).stdout).toMatch(
      /^The interpreter is alive and no program runs/,
    )
    const zip = path.join(folder, 'tank.zip')
    await vivid(
      'bundle',
      'demo/designs/slip-tank.json',
      '--broker',
      '192.0.2.7',
      '--signed',
      'bench',
      '--past',
      'bench',
      zip,
    )
    await expect(vivid('install', zip, cable.name)).rejects.toMatchObject({
      stderr: expect.stringMatching(/no passwords/),
    })
    const { unzipSync, strFromU8 } = await import('fflate')
    const secret = path.join(folder, 'secret.json')
    fs.writeFileSync(
      secret,
      strFromU8(unzipSync(fs.readFileSync(zip))['secret.example.json'] ?? new Uint8Array())
        .replace('"name": "…"', '"name": "kestrel-yard"')
        .replaceAll('"password": "…"', '"password": "clay-and-water"'),
    )
    const whole = path.join(folder, 'whole.zip')
    await vivid('complete', zip, secret, whole)
    const installed = await vivid('install', whole, cable.name)
    expect(installed.stdout).toMatch(/hardware address 24a1600b7c3e[\s\S]*read back and started/)
    expect(`${written.stdout}${installed.stdout}`).not.toContain('clay-and-water')
  } finally {
    await cable.end()
  }
}, 90_000)
