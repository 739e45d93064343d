import { type ChildProcess, spawn } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { z } from 'zod'
import { brokerFolderOf, runningBroker } from '../../src/server/broker/brokerProcess'
import { SLIP_TANK, freePort, startProduct, until } from './product'
import { readSetting } from '../../src/server/db/settingRows'
import { spreadAll } from '../../src/server/db/messageRows'

const entries = z.array(z.tuple([z.string(), z.string(), z.boolean()]))
const PAGE = 8192

/**
 * Builds in `to` what the disk has. `luck` is the share of pages outside the log that reached it without having been
 * flushed: a disk may write what it likes when it likes, and a database must live with both.
 */
export function afterCut(disk: string, folder: string, to: string, luck: number, random: () => number): void {
  const build = (id: string, at: string, live: string) => {
    fs.mkdirSync(at, { recursive: true, mode: 0o700 })
    const list = path.join(disk, 'folders', id)
    if (!fs.existsSync(list)) return
    for (const [name, entry, isFolder] of entries.parse(JSON.parse(fs.readFileSync(list, 'utf8')))) {
      const [file, now] = [path.join(at, name), path.join(live, name)]
      if (isFolder) {
        build(entry, file, now)
        continue
      }
      const kept = path.join(disk, 'files', entry)
      fs.writeFileSync(file, fs.existsSync(kept) ? fs.readFileSync(kept) : '', { mode: 0o600 })
      if (luck > 0 && !live.includes('pg_wal') && fs.existsSync(now) && idOf(now) === entry)
        mix(file, now, luck, random)
    }
  }
  build('root', to, folder)
}

function idOf(file: string): string {
  const s = fs.lstatSync(file, { bigint: true })
  return `${s.ino}-${s.birthtimeNs}`
}

function mix(file: string, now: string, luck: number, random: () => number): void {
  const [had, has] = [fs.readFileSync(file), fs.readFileSync(now)]
  const mixed = Buffer.alloc(Math.max(had.length, has.length))
  had.copy(mixed)
  for (let at = 0; at < has.length; at += PAGE) if (random() < luck) has.copy(mixed, at, at, at + PAGE)
  fs.writeFileSync(file, mixed)
}

export interface CutOutcome {
  acknowledged: Record<string, number>
  lost: string[]
}

/**
 * Has a child write edits, readings, retained messages and passwords until the power goes: at a moment of `random`, or
 * during or just after a checkpoint. Then starts from what the disk has, and compares with what was acknowledged.
 * `base` is where the child begins.
 */
export async function cutPower(
  work: string,
  atCheckpoint: boolean,
  luck: number,
  random: () => number,
): Promise<CutOutcome> {
  const [live, disk, left] = ['live', 'disk', 'left'].map((n) => path.join(work, n)) as [string, string, string]
  const folder = path.join(live, 'data')
  fs.mkdirSync(live, { recursive: true, mode: 0o700 })
  const child: ChildProcess = spawn(
    process.execPath,
    ['build/acknowledging-child.mjs', folder, String(await freePort())],
    {
      stdio: ['ignore', 'pipe', 'inherit'],
      // The broker it starts is on the same disk.
      env: {
        ...process.env,
        NODE_OPTIONS: `--import ${path.resolve('tests/support/unflushed.mjs')}`,
        CUT_ROOT: live,
        CUT_DISK: disk,
      },
    },
  )
  let text = ''
  child.stdout?.on('data', (d: Buffer) => {
    text += d.toString()
  })
  await until(
    () =>
      ['edit', 'reading', 'retained', 'password'].every((w) => text.split(`\n${w} `).length > 3) ||
      child.exitCode !== null,
    60_000,
    () => text,
  )
  if (atCheckpoint) {
    const from = text.length
    const word = random() < 0.5 ? 'checkpoint begins' : 'checkpoint ended'
    await until(
      () => text.slice(from).includes(word),
      60_000,
      () => text.slice(-200),
    )
  }
  await new Promise((r) => setTimeout(r, random() * (atCheckpoint ? 30 : 1500)))
  const broker = runningBroker(brokerFolderOf(folder))
  child.kill('SIGKILL')
  if (broker) process.kill(broker.pid, 'SIGKILL')
  await new Promise((r) => child.once('close', r))
  const last = (word: string) =>
    Number(
      text
        .match(new RegExp(`(?<=^|\\n)${word} (\\d+)\\n`, 'g'))
        ?.at(-1)
        ?.trim()
        .split(' ')[1] ?? 0,
    )
  const acknowledged = Object.fromEntries(['edit', 'reading', 'retained', 'password'].map((w) => [w, last(w)]))
  afterCut(disk, live, left, luck, random)
  return { acknowledged, lost: await missing(path.join(left, 'data'), acknowledged) }
}

async function missing(folder: string, acknowledged: Record<string, number>): Promise<string[]> {
  const product = await startProduct(folder)
  // What the broker had kept is handed over before anything is counted.
  const level = () => product.workshop.get(SLIP_TANK)?.live.values.slevel?.value
  const last = (acknowledged.reading ?? 0) / 1000
  await until(() => Number(level() ?? 0) >= last, 5000).catch(() => undefined)
  await product.ingest.buffer.flush()
  const lost: string[] = []
  const expect = (what: string, there: number) => {
    const said = acknowledged[what] ?? 0
    if (there < said) lost.push(`${what}: ${said} acknowledged, ${there} there`)
  }
  const node = product.workshop.get(SLIP_TANK)
  expect('edit', node?.seq ?? 0)
  const signal = Object.entries(node?.design.signals ?? {}).find(([, s]) => s.slug === 'level')?.[0] ?? ''
  await spreadAll(product.db)
  const rows = await product.db.query(
    z.object({ number: z.number() }),
    'select distinct number from readings where signal_id = $1',
    [signal],
  )
  const numbers = new Set(rows.map((r) => Math.round(r.number * 1000)))
  for (let n = 1; n <= (acknowledged.reading ?? 0); n++) if (!numbers.has(n)) lost.push(`reading ${n}`)
  const [kept] = await product.db.query(
    z.object({ payload: z.custom<Uint8Array>((v) => v instanceof Uint8Array) }),
    "select payload from retained where topic = 'vn/slip-tank/health'",
  )
  const health: unknown = kept ? JSON.parse(Buffer.from(kept.payload).toString()) : {}
  expect('retained', z.object({ uptimeS: z.number() }).catch({ uptimeS: 0 }).parse(health).uptimeS)
  expect('password', Number(product.credentials.wayIn('house')?.password.replace('password-', '') ?? 0))
  // It is a whole database and not only one that answers: every index agrees with its table.
  await product.db.run('reindex database postgres').catch(() => undefined)
  expect(
    'edit',
    (await product.db.query(z.object({ n: z.number() }), 'select coalesce(max(seq), 0)::int as n from edits'))[0]?.n ??
      0,
  )
  await readSetting(product.db, 'shop', z.unknown())
  await product.stop()
  return lost
}
