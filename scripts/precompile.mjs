// The runtime as boards carry it: every module of device/ compiled to the interpreter's byte code, in build/device.
// main.py stays text. A board's own compiler would need more memory than the smallest one has; that one gets its names
// short as well, in build/device-small.
import { createHash } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { shorten } from './shorten.mjs'

const target = 'build/device'
/**
 * What the smallest board carries none of: it has one analog input, and no memory to read codes from the air beside a
 * receiver, nor to say them. Names are the shorter the fewer there are.
 */
const NOT_SMALLEST = [
  'vn/drivers/ratio.py',
  'vn/air.py',
  'vn/codes.py',
  'vn/drivers/transmitter.py',
  'vn/trains_rmt.py',
  'vn/trains_soft.py',
]
const sources = fs
  .readdirSync('device', { recursive: true })
  .filter((name) => name.endsWith('.py'))
  .sort()
const { version } = JSON.parse(fs.readFileSync('node_modules/@pybricks/mpy-cross-v6/package.json', 'utf8'))
const own = ['precompile', 'shorten'].map((name) => fs.readFileSync(`scripts/${name}.mjs`, 'utf8'))
const made = createHash('sha256')
  .update(JSON.stringify([version, own, sources.map((name) => [name, fs.readFileSync(`device/${name}`, 'utf8')])]))
  .digest('hex')
const stamp = `${target}.made-of`
if (!fs.existsSync(stamp) || fs.readFileSync(stamp, 'utf8') !== made) {
  // The compiler's loader takes a fetch for a sign that it runs in a page.
  globalThis.fetch = undefined
  const { compile } = (await import('@pybricks/mpy-cross-v6')).default
  const texts = Object.fromEntries(sources.map((name) => [name, fs.readFileSync(`device/${name}`, 'utf8')]))
  for (const [folder, all] of [
    [target, texts],
    [`${target}-small`, shorten(omitted(texts, NOT_SMALLEST)).sources],
  ]) {
    fs.rmSync(folder, { recursive: true, force: true })
    for (const [name, text] of Object.entries(all)) {
      const out = `${folder}/${name === 'main.py' ? name : name.replace(/\.py$/, '.mpy')}`
      fs.mkdirSync(path.dirname(out), { recursive: true })
      if (name === 'main.py') fs.writeFileSync(out, texts[name])
      else {
        const { status, mpy, err } = await compile(path.basename(name), text, ['-O3', '-s', name])
        if (status !== 0 || !mpy) throw new Error(`device/${name}: ${err.join('\n')}`)
        fs.writeFileSync(out, mpy)
      }
    }
  }
  fs.writeFileSync(stamp, made)
}

function omitted(texts, names) {
  return Object.fromEntries(Object.entries(texts).filter(([name]) => !names.includes(name)))
}
