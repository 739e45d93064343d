import { execFileSync, spawn, spawnSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { afterEach, describe, expect, test } from 'vitest'
import {
  clearCopy,
  copiesIn,
  demandWhole,
  exchange,
  FolderTrouble,
  keepExchange,
  putInPlace,
  settleExchange,
  undoExchange,
} from '../../src/server/files/dataFolder'
import type { Product } from '../../src/server/product'
import { cutPower } from '../support/powerCut'
import { demoNodes, freePort, SLIP_TANK, startProduct, tempFolder, until } from '../support/product'

demoNodes.only = ['slip-tank']

const running: Product[] = []
afterEach(async () => {
  for (const p of running.splice(0)) await p.stop()
})
async function start(folder: string): Promise<Product> {
  const product = await startProduct(folder)
  running.push(product)
  return product
}
const stop = async (product: Product) => {
  running.splice(running.indexOf(product), 1)
  await product.stop()
}

describe('a power cut', () => {
  // What the disk has is kept by a layer that knows nothing of the product; `npm run kill -- power 50` is the long
  // form, with half of the unflushed pages and with all of them as well.
  test.each([[0, true, 'everything that was not flushed is gone, at a checkpoint']])(
    'with %d of the unflushed pages: nothing acknowledged is lost (%s)',
    async (luck, atCheckpoint) => {
      const { acknowledged, lost } = await cutPower(tempFolder(), atCheckpoint, luck, Math.random)
      expect(lost).toEqual([])
      expect(Math.min(...Object.values(acknowledged))).toBeGreaterThan(0)
    },
  )

  test('the system sees the log flushed before each acknowledgement', async () => {
    const folder = tempFolder()
    const trace = path.join(folder, 'trace')
    const child = spawn(
      'strace',
      [
        '-f',
        '-y',
        '-e',
        'trace=fsync,pwrite64,write',
        '-o',
        trace,
        process.execPath,
        'build/editing-child.mjs',
        path.join(folder, 'data'),
        String(await freePort()),
      ],
      { stdio: ['ignore', 'pipe', 'ignore'], detached: true },
    )
    let said = ''
    child.stdout.on('data', (d: Buffer) => {
      said += d.toString()
    })
    await until(
      () => said.split('saved').length > 12,
      80_000,
      () => said,
    )
    process.kill(-(child.pid ?? 0), 'SIGKILL')
    await new Promise((r) => child.once('exit', r))
    // Lines of one call that another thread interrupts are two: it counts when it is over.
    const lines = fs.readFileSync(trace, 'latin1').split('\n')
    const log = /pg_wal\//
    let written = -1
    let begun = -1
    let flushed = -1
    let acknowledged = 0
    const late: number[] = []
    const flying = new Map<string, number>()
    lines.forEach((line, i) => {
      const [thread = ''] = line.split(' ')
      if (/ (pwrite64|write)\(/.test(line) && log.test(line)) written = i
      if (/ fsync\(/.test(line) && log.test(line)) {
        begun = i
        if (line.includes('unfinished')) flying.set(thread, i)
        else if (/= 0$/.test(line)) flushed = i
      }
      if (/<\.\.\. fsync resumed>/.test(line) && flying.has(thread)) {
        flushed = flying.get(thread) ?? -1
        flying.delete(thread)
      }
      if (/ write\(1.*"saved/.test(line)) {
        acknowledged += 1
        // The last flush that is over began after the last write to the log.
        if (flushed < written) late.push(i)
      }
    })
    expect(acknowledged).toBeGreaterThan(10)
    expect(begun).toBeGreaterThan(0)
    expect(late).toEqual([])
  })
})

/**
 * A child that edits on a disk of `fullDisk.mjs`, once twenty edits are acknowledged; `said` is what it has told so
 * far.
 */
async function editingOn(name: string) {
  const folder = path.join(tempFolder(), name)
  const flag = path.join(tempFolder(), 'full')
  const hook = path.resolve('tests/support/fullDisk.mjs')
  const run = ['--import', hook, 'build/acknowledging-child.mjs', folder, String(await freePort())]
  const env = { ...process.env, DISK_FULL: flag, FULL_ROOT: folder }
  const child = spawn(process.execPath, run, { stdio: ['ignore', 'pipe', 'ignore'], env })
  let text = ''
  child.stdout.on('data', (d: Buffer) => {
    text += d.toString()
  })
  const edits = (from: string) => [...from.matchAll(/^edit (\d+)$/gm)].map((m) => Number(m[1]))
  await until(
    () => edits(text).length > 20,
    60_000,
    () => text,
  )
  return { folder, flag, child, edits, said: () => text }
}

test('a disk that is full refuses, loses nothing, and goes on by itself when there is room', async () => {
  const { folder, flag, child, edits, said } = await editingOn('data')
  for (let round = 0; round < 2; round++) {
    fs.writeFileSync(flag, '')
    await until(
      () => /not saved: .*(No space left|disk)/i.test(said().slice(said().lastIndexOf('edit '))),
      60_000,
      () => said().slice(-500),
    )
    const from = said().length
    fs.rmSync(flag)
    await until(
      () => edits(said().slice(from)).length > 20,
      60_000,
      () => said().slice(from).slice(-500),
    )
  }
  child.kill('SIGKILL')
  await new Promise((r) => child.once('close', r))
  const seqs = edits(said())
  // One after the other, none twice, none left out; and the last of them is there.
  expect(seqs).toEqual(Array.from({ length: seqs.length }, (_, i) => i + 1))
  const product = await start(folder)
  expect(product.workshop.get(SLIP_TANK)?.seq).toBeGreaterThanOrEqual(seqs.at(-1) ?? 0)
  await stop(product)
})

test('a disk that cannot flush ends saving at once, in words, and what was acknowledged is there afterwards', async () => {
  const { folder, flag, child, edits, said } = await editingOn('data')
  fs.writeFileSync(flag, 'failing')
  await until(
    () => said().split('not saved: the database has stopped').length > 3,
    20_000,
    () => said().slice(-500),
  )
  // Nothing is acknowledged any more.
  const from = said().lastIndexOf('not saved')
  expect(edits(said().slice(from))).toEqual([])
  child.kill('SIGKILL')
  await new Promise((r) => child.once('close', r))
  const product = await start(folder)
  expect(product.workshop.get(SLIP_TANK)?.seq).toBeGreaterThanOrEqual(edits(said()).at(-1) ?? 0)
  await stop(product)
})

describe('a data folder', () => {
  /** One that holds a shop, with an edit in it that tells it from another. */
  async function held(name: string): Promise<string> {
    const folder = path.join(tempFolder(), 'data')
    const product = await start(folder)
    await product.shop.make({ kind: 'rename-shop', name }, 'test')
    await stop(product)
    return folder
  }
  const nameIn = async (folder: string) => {
    const product = await start(folder)
    const { name } = product.shop.document
    await stop(product)
    return name
  }
  const vivid = (...args: string[]) =>
    execFileSync('node', ['build/vivid.mjs', ...args], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })

  test('an exchange that is killed before any of its calls leaves the old or the new one, and the other beside it', () => {
    // What a database looks like from outside, with a word that tells which it is.
    const database = (at: string, word: string) => {
      for (const part of ['global', 'pg_wal', 'base']) fs.mkdirSync(path.join(at, part), { recursive: true })
      fs.writeFileSync(path.join(at, 'PG_VERSION'), word)
      fs.writeFileSync(path.join(at, 'global/pg_control'), Buffer.alloc(8192))
    }
    const ends: string[] = []
    for (let n = 1; n < 60; n++) {
      const folder = path.join(tempFolder(), 'data')
      database(path.join(folder, 'database'), 'old')
      database(path.join(folder, 'restore-x/database'), 'new')
      const run = ['--import', path.resolve('tests/support/killedAt.mjs'), 'build/exchanging-child.mjs', folder]
      const { signal } = spawnSync(process.execPath, run, {
        env: { ...process.env, KILLED_AT: String(n), FOLDER: folder },
      })
      settleExchange(folder)
      expect(() => demandWhole(folder), `killed at ${n}`).not.toThrow()
      const words = fs
        .readdirSync(folder, { recursive: true, encoding: 'utf8' })
        .filter((f) => f.endsWith('PG_VERSION'))
        .map((f) => fs.readFileSync(path.join(folder, f), 'utf8'))
      expect(words.sort(), `killed at ${n}`).toEqual(['new', 'old'])
      ends.push(fs.readFileSync(path.join(folder, 'database/PG_VERSION'), 'utf8'))
      if (signal === null) break
    }
    // It was killed at every call there is: first the old one is kept, from some call on the new one.
    expect(ends.length).toBeGreaterThan(6)
    expect(ends.length).toBeLessThan(59)
    expect(ends.join(' ')).toMatch(/^(old )+(new ?)+$/)
  })

  test('an exchange that is cut at any step leaves the old or the new shop, never none', async () => {
    const [old, fresh] = [await held('Old yard'), await held('New yard')]
    const before = 'database-before-test'
    // A crash between any two calls of the file system: each is done once with the next one failing.
    const steps = ['journal written', 'old moved away', 'new in place', 'all done'] as const
    for (const [n, step] of steps.entries()) {
      const folder = path.join(tempFolder(), 'data')
      fs.cpSync(old, folder, { recursive: true })
      fs.cpSync(path.join(fresh, 'database'), path.join(folder, 'restore-x/new/database'), { recursive: true })
      if (n === 3) exchange(folder, path.join(folder, 'restore-x/new/database'), before)
      else {
        fs.writeFileSync(path.join(folder, 'exchange.json'), JSON.stringify({ from: 'restore-x/new/database', before }))
        if (n > 0) fs.renameSync(path.join(folder, 'database'), path.join(folder, before))
        if (n > 1) fs.renameSync(path.join(folder, 'restore-x/new/database'), path.join(folder, 'database'))
      }
      expect(await nameIn(folder), step).toBe(n < 2 ? 'Old yard' : 'New yard')
      // It may be looked at again: the one from before is there as well, under its name.
      if (n >= 2)
        expect(
          copiesIn(folder).some((c) => c.name === before && c.kind === 'database'),
          step,
        ).toBe(true)
    }
  })

  test('a new database that does not open gives way to the old one', async () => {
    const folder = await held('Old yard')
    fs.mkdirSync(path.join(folder, 'restore-y'), { recursive: true })
    fs.cpSync(path.join(folder, 'database'), path.join(folder, 'restore-y/database'), { recursive: true })
    fs.writeFileSync(path.join(folder, 'restore-y/database/global/pg_control'), Buffer.alloc(8192, 7))
    exchange(folder, path.join(folder, 'restore-y/database'), 'database-before-y')
    expect(settleExchange(folder)).toBe(true)
    await expect(startProduct(folder)).rejects.toThrow(/does not open/)
    expect(undoExchange(folder)).toBe(true)
    expect(await nameIn(folder)).toBe('Old yard')
    keepExchange(folder)
  })

  test('one that has held data and looks empty or damaged stops with what there is and how to bring it back', async () => {
    const folder = await held('Old yard')
    fs.cpSync(path.join(folder, 'database'), path.join(folder, 'database-before-2026'), { recursive: true })
    const backup = path.join(path.dirname(folder), 'all.tar.gz')
    fs.writeFileSync(backup, 'x')
    fs.rmSync(path.join(folder, 'database'), { recursive: true })
    const words = await startProduct(folder).then(
      () => '',
      (e: unknown) => String(e),
    )
    for (const said of [
      folder,
      'holds none now',
      `bin/vivid data ${folder} --use database-before-2026`,
      `bin/vivid restore ${backup} `,
      '--begin-anew',
      'not mounted',
    ])
      expect(words).toContain(said)
    expect(fs.existsSync(path.join(folder, 'database'))).toBe(false)
    expect(vivid('data', folder, '--use', 'database-before-2026')).toMatch(/is the database now/)
    expect(await nameIn(folder)).toBe('Old yard')

    // The disk it lies on is not there: the folder is empty, and what stands beside it says that it was not always.
    const away = `${folder}-away`
    fs.renameSync(folder, away)
    await expect(startProduct(folder)).rejects.toThrow(/holds none now/)
    fs.rmSync(folder, { recursive: true })
    fs.renameSync(away, folder)

    fs.truncateSync(path.join(folder, 'database/global/pg_control'), 100)
    await expect(startProduct(folder)).rejects.toThrow(/pg_control has 100 bytes/)
    fs.rmSync(path.join(folder, 'database/global/pg_control'))
    await expect(startProduct(folder)).rejects.toThrow(/global\/pg_control is missing/)
    expect(vivid('data', folder, '--begin-anew')).toMatch(/kept as database-damaged-/)
    expect(await nameIn(folder)).toBe('Kestrel Yard')
    const [damaged] = copiesIn(folder)
    expect(() => putInPlace(folder, damaged?.name ?? '')).toThrow(FolderTrouble)
    expect(clearCopy(folder, damaged?.name ?? '')).toBeNull()
    expect(clearCopy(folder, '../data')).toMatch(/no copy/)
    expect(copiesIn(folder)).toEqual([])
  })

  test('a first start that is killed leaves nothing that looks like a shop', async () => {
    const folder = path.join(tempFolder(), 'data')
    for (const afterMs of [150, 400, 900]) {
      const child = spawn(process.execPath, ['build/serving-child.mjs', folder, String(await freePort())], {
        stdio: 'ignore',
      })
      await new Promise((r) => setTimeout(r, afterMs))
      child.kill('SIGKILL')
      await new Promise((r) => child.once('exit', r))
      expect(() => demandWhole(folder)).not.toThrow()
    }
    const product = await start(folder)
    expect(product.workshop.get(SLIP_TANK)).toBeDefined()
  })

  test.each([
    ['EROFS', /can only be read/],
    ['ENOSPC', /is full/],
    ['EACCES', /may not be written/],
  ])('%s at the start is said with what to do', (code, words) => {
    const folder = path.join(tempFolder(), 'data')
    const run = `const fs = require('node:fs'); const real = fs.writeFileSync; fs.writeFileSync = (f, ...r) => { if (String(f).includes('in-use.json')) throw Object.assign(new Error('${code}'), { code: '${code}' }); return real(f, ...r) }`
    const hook = path.join(tempFolder(), 'hook.cjs')
    fs.writeFileSync(hook, run)
    const child = () =>
      execFileSync(process.execPath, ['--require', hook, 'build/serving-child.mjs', folder, '1'], {
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'pipe'],
      })
    expect(child).toThrow(words)
  })
})
