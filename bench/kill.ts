import { type ChildProcess, spawn } from 'node:child_process'
import fs from 'node:fs'
import os from 'node:os'
import path from 'node:path'
import { cutPower } from '../tests/support/powerCut'
import { freePort, SLIP_TANK, startProduct, tempFolder } from '../tests/support/product'

/**
 * Kills an editing session without warning, over and over, on one data folder: nothing that had been said to be saved
 * may be gone, nothing may be half there. `node build/kill.mjs 200`. With `power 50` the power is cut instead: what was
 * not flushed is gone, a third of the times during or just after a checkpoint.
 */
if (process.argv[2] === 'power') await powerCuts(Number(process.argv[3] ?? 20))

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
for (const left of [folder, `${folder}.key`, `${folder}.held`]) fs.rmSync(left, { recursive: true, force: true })
process.exit(lost + half > 0 ? 1 : 0)
