import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import fs from 'node:fs'
import os from 'node:os'
import path from 'node:path'
import { alone } from './alone'
import { builtInCatalog } from '../src/core/catalog/catalog'
import { plugIn } from '../tests/support/cable'
import { cutWhileWriting } from '../tests/support/cuts'
import { House, killBroker, killProduct } from '../tests/support/house'
import { cutPower } from '../tests/support/powerCut'
import { freePort, SLIP_TANK, startProduct, tempFolder } from '../tests/support/product'

/**
 * Kills an editing session without warning, over and over, on one data folder: nothing that had been said to be saved
 * may be gone, nothing may be half there. `node build/kill.mjs 200`. With `power 50` the power is cut instead: what was
 * not flushed is gone, a third of the times during or just after a checkpoint. With `product 50` or `broker 50` one of
 * the two is killed while a node publishes; with `cable 40` the cable is pulled while a board is written; with `alone 60` the product is stopped for an hour and the house goes on.
 */
if (process.argv[2] === 'product' || process.argv[2] === 'broker')
  await kills(process.argv[2], Number(process.argv[3] ?? 50))
if (process.argv[2] === 'alone') await aloneFor(Number(process.argv[3] ?? 60))
if (process.argv[2] === 'cable') await cableCuts(Number(process.argv[3] ?? 40))
if (process.argv[2] === 'power') await powerCuts(Number(process.argv[3] ?? 20))

async function aloneFor(minutes: number): Promise<never> {
  const house = await House.build()
  const { wrong, words } = await alone(house, minutes)
  console.log(words)
  await leave(house, wrong)
  return process.exit()
}

async function leave(house: House, wrong: number): Promise<void> {
  await house.end()
  for (const left of ['', '.key', '.held', '.broker']) fs.rmSync(house.folder + left, { recursive: true, force: true })
  process.exitCode = wrong > 0 ? 1 : 0
}

/** The product, or its broker, killed over and over while a node publishes. */
async function kills(what: 'product' | 'broker', n: number): Promise<never> {
  const house = await House.build()
  let wrong: number
  if (what === 'product') {
    const r = await killProduct(house, n)
    wrong = r.lost + r.twice + r.cuts + (r.stayed ? 0 : 1)
    console.log(
      `${n} kills of the product: ${r.acknowledged} readings acknowledged, ${r.lost} lost, ${r.twice} twice, at most ${r.apartMs} ms from their time; the node’s line was cut ${r.cuts} times`,
    )
  } else {
    const r = await killBroker(house, n, () =>
      execFileSync('bin/broker', ['start'], {
        env: { ...process.env, VIVID_DATA: house.folder, MQTT_PORT: String(house.port) },
      }),
    )
    const same = JSON.stringify(Object.entries(r.kept).sort()) === JSON.stringify(Object.entries(r.retained).sort())
    const stored = new Set(r.stored)
    const lost = r.readings.filter((x) => !stored.has(x)).length
    const twice = r.stored.length - stored.size
    wrong = lost + twice + (same ? 0 : 1)
    console.log(
      `${n} kills of the broker: ${r.readings.length} readings acknowledged, ${lost} lost, ${twice} twice; retained ${same ? 'whole' : 'NOT whole'}`,
    )
  }
  await leave(house, wrong)
  return process.exit()
}

async function cableCuts(n: number): Promise<never> {
  const board = Object.values(builtInCatalog.boards).find((b) => b.interpreter.chip === '32-class')
  if (!board) throw new Error('no board')
  const folder = tempFolder()
  const cable = await plugIn('32-class', { folder })
  const { kept, said, odd } = await cutWhileWriting(cable, board, n, Number(process.env.SEED ?? 1))
  console.log(`${n} cables pulled while writing: ${kept} boards ran, ${said} said what to do, ${odd.length} neither`)
  for (const o of odd) console.log(o)
  await cable.end()
  fs.rmSync(folder, { recursive: true, force: true })
  process.exit(odd.length > 0 ? 1 : 0)
}

async function powerCuts(n: number): Promise<never> {
  // The same cuts again with the same seed.
  let seed = Number(process.env.SEED ?? 1)
  const random = () => {
    seed = (seed * 48_271) % 2_147_483_647
    return seed / 2_147_483_647
  }
  const all: Record<string, number> = {}
  let lost = 0
  for (let i = 0; i < n; i++) {
    const work = fs.mkdtempSync(path.join(os.tmpdir(), 'vivid-cut-'))
    // What was not flushed is lost wholly, by halves, or not at all outside the log.
    const { acknowledged, lost: gone } = await cutPower(work, i % 3 === 0, [0, 0.5, 1][i % 3] ?? 0, random)
    for (const [what, count] of Object.entries(acknowledged)) all[what] = (all[what] ?? 0) + count
    lost += gone.length
    if (gone.length > 0) console.log(`cut ${i}: ${gone.slice(0, 3).join('; ')}`)
    fs.rmSync(work, { recursive: true, force: true, maxRetries: 3 })
  }
  const said = Object.entries(all)
    .map(([what, count]) => `${count} ${what}`)
    .join(', ')
  console.log(`${n} power cuts, acknowledged: ${said}; ${lost} lost`)
  process.exit(lost > 0 ? 1 : 0)
}

const times = Number(process.argv[2] ?? 20)
const folder = tempFolder()
let shown = 0
let lost = 0
let half = 0
let saved = 0
await (await startProduct(folder)).stop()

for (let i = 0; i < times; i++) {
  const child: ChildProcess = spawn(process.execPath, ['build/editing-child.mjs', folder, String(await freePort())], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  let text = ''
  child.stdout?.on('data', (d: Buffer) => {
    text += d.toString()
  })
  await new Promise<void>((r) => {
    const started = setInterval(() => {
      if (!text.includes('saved')) return
      clearInterval(started)
      setTimeout(r, Math.random() * 400)
    }, 5)
  })
  child.kill('SIGKILL')
  await new Promise((r) => child.once('exit', r))
  saved += text.split('\n').filter((l) => l === 'saved').length
  if (i % 10 !== 9 && i !== times - 1) continue
  // Each session goes on where the one before was killed; every tenth is looked at from outside as well.
  const product = await startProduct(folder)
  const node = product.workshop.get(SLIP_TANK)
  const seq = node?.seq ?? 0
  if (seq < saved) lost += saved - seq
  if (node?.design.parts.button?.label !== `Button ${seq - 1}`) half += 1
  shown = seq
  await product.stop()
}
console.log(
  `${times} kills, ${saved} edits shown as saved, ${shown} in the database, ${lost} lost, ${half} half applied`,
)
for (const left of [folder, `${folder}.key`, `${folder}.held`, `${folder}.broker`])
  fs.rmSync(left, { recursive: true, force: true })
process.exit(lost + half > 0 ? 1 : 0)
