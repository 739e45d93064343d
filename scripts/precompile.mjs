// The runtime as boards carry it: every module of device/ compiled to the interpreter's byte code, in build/device. main.py stays text.
// A board's own compiler would need more memory than the smallest one has.
import { createHash } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'

const target = 'build/device'
const sources = fs.readdirSync('device', { recursive: true }).filter((name) => name.endsWith('.py')).sort()
const { version } = JSON.parse(fs.readFileSync('node_modules/@pybricks/mpy-cross-v6/package.json', 'utf8'))
const own = fs.readFileSync('scripts/precompile.mjs', 'utf8')
const made = createHash('sha256').update(JSON.stringify([version, own, sources.map((name) => [name, fs.readFileSync(`device/${name}`, 'utf8')])])).digest('hex')
const stamp = `${target}.made-of`
if (!fs.existsSync(stamp) || fs.readFileSync(stamp, 'utf8') !== made) {
  // The compiler's loader takes a fetch for a sign that it runs in a page.
  globalThis.fetch = undefined
  const { compile } = (await import('@pybricks/mpy-cross-v6')).default
  fs.rmSync(target, { recursive: true, force: true })
  for (const name of sources) {
    const text = fs.readFileSync(`device/${name}`, 'utf8')
    const out = name === 'main.py' ? name : name.replace(/\.py$/, '.mpy')
    fs.mkdirSync(path.dirname(`${target}/${out}`), { recursive: true })
    if (name === 'main.py') fs.writeFileSync(`${target}/${out}`, text)
    else {
      const { status, mpy, err } = await compile(path.basename(name), text, ['-O3', '-s', name])
      if (status !== 0 || !mpy) throw new Error(`device/${name}: ${err.join('\n')}`)
      fs.writeFileSync(`${target}/${out}`, mpy)
    }
  }
  fs.writeFileSync(stamp, made)
}
