import { type ChildProcess, spawn } from 'node:child_process'
import { freePort, SLIP_TANK, startProduct, tempFolder } from '../tests/support/product'

/**
 * Kills an editing session without warning, over and over, on one data folder: nothing that had been said to be saved may be gone,
 * nothing may be half there. `node build/kill.mjs 200`.
 */
const times = Number(process.argv[2] ?? 20)
const folder = tempFolder()
let shown = 0
let lost = 0
let half = 0
let saved = 0
await (await startProduct(folder)).stop()

for (let i = 0; i < times; i++) {
  const child: ChildProcess = spawn(process.execPath, ['build/editing-child.mjs', folder, String(await freePort())], { stdio: ['ignore', 'pipe', 'inherit'] })
  let text = ''
  child.stdout?.on('data', (d: Buffer) => { text += d.toString() })
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
console.log(`${times} kills, ${saved} edits shown as saved, ${shown} in the database, ${lost} lost, ${half} half applied`)
process.exit(lost + half > 0 ? 1 : 0)
