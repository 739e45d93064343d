import { build } from 'esbuild'
import { execFileSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import { beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { tempFolder } from '../support/product'

// Code kept from start to start must never be other code than what the files say. Real processes, since Node's own
// loader is what is taught.

// Later releases of Node keep compiled code themselves; there is no file of ours to look at.
const OURS = process.versions.node.startsWith('20.')

let runner: string
let folder: string
const kept = () => path.join(folder, 'kept', `${process.version}-${process.arch}`)
const write = (name: string, text: string) => {
  fs.mkdirSync(path.dirname(path.join(folder, name)), { recursive: true })
  fs.writeFileSync(path.join(folder, name), text)
}
const run = (madeOf = 'one build') =>
  execFileSync(process.execPath, [runner, folder, madeOf], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
  }).trim()
/** Long enough ago that a change is seen by its date, as with files somebody edits. */
const age = (name: string) => fs.utimesSync(path.join(folder, name), 1_000_000, 1_000_000)

beforeAll(async () => {
  runner = path.join(tempFolder(), 'runner.mjs')
  await build({
    stdin: {
      contents: `import { createRequire } from 'node:module'
import { rememberCompiled } from './scripts/compiled'
const [folder, madeOf] = process.argv.slice(2)
process.once('exit', rememberCompiled(folder + '/kept', madeOf!))
createRequire(folder + '/start.js')('./main').then((told: unknown) => console.log(JSON.stringify(told)))`,
      resolveDir: process.cwd(),
      loader: 'ts',
    },
    outfile: runner,
    bundle: true,
    platform: 'node',
    format: 'esm',
    logLevel: 'silent',
  })
})

beforeEach(() => {
  folder = tempFolder()
  write(
    'main.js',
    `const { twice } = require('./part'); const data = require('./data.json')
module.exports = (async () => ({ twice: twice(data.n), asked: (await import('./asked.mjs')).default, self: require.cache[__filename] === module && require('./main') === module.exports, dir: __dirname === require('node:path').dirname(__filename), found: require.resolve('./part').endsWith('part.js') }))()`,
  )
  write('part.js', 'exports.twice = (n) => n * 2')
  write('data.json', '{"n":21}')
  write('asked.mjs', 'export default "asked"')
  for (const name of ['main.js', 'part.js']) age(name)
})

const FINE = '{"twice":42,"asked":"asked","self":true,"dir":true,"found":true}'

describe.runIf(OURS)('compiled code kept from start to start', () => {
  test('a second start finds all it needs and writes nothing', () => {
    expect(run()).toBe(FINE)
    const before = fs.statSync(kept())
    expect(run()).toBe(FINE)
    expect(fs.statSync(kept()).mtimeMs).toBe(before.mtimeMs)
  })

  test('a file that has changed, even to the same length, is taken as it is now', () => {
    run()
    write('part.js', 'exports.twice = (n) => n * 3')
    expect(run()).toContain('"twice":63')
    expect(run()).toContain('"twice":63')
  })

  test('a file that has moved is looked for again', () => {
    run()
    fs.rmSync(path.join(folder, 'part.js'))
    write('part/index.js', 'exports.twice = (n) => n * 4')
    expect(run()).toContain('"twice":84')
  })

  test('after another build nothing of the former one is used', () => {
    run()
    write('part.js', 'exports.twice = (n) => n * 3')
    age('part.js')
    // By size and date alone it is the same file: kept code is really what runs.
    expect(run()).toBe(FINE)
    expect(run('another build')).toContain('"twice":63')
  })

  test('what is missing, wrong or not CommonJS is said as ever', () => {
    run()
    write('part.js', 'exports.twice = (n) => n *')
    expect(() => run()).toThrow(/SyntaxError: Unexpected (token|end)/)
    fs.rmSync(path.join(folder, 'part.js'))
    expect(() => run()).toThrow(/Cannot find module '\.\/part'/)
  })

  test('a file that is cut off, garbled or empty is done without, and written anew', () => {
    run()
    const whole = fs.readFileSync(kept())
    const garbled = (at: number) => {
      const copy = Buffer.from(whole)
      copy[at]! ^= 0x55
      return copy
    }
    const broken = [
      Buffer.alloc(0),
      whole.subarray(0, 3),
      whole.subarray(0, whole.length >> 1),
      whole.subarray(0, -1),
      Buffer.alloc(whole.length),
      garbled(1),
      garbled(10),
      garbled(whole.length - 5),
      garbled(whole.length - 200),
    ]
    for (const content of broken) {
      fs.writeFileSync(kept(), content)
      expect(run()).toBe(FINE)
      expect(fs.readFileSync(kept()).equals(content)).toBe(false)
    }
  })

  test('a folder that cannot be written to costs nothing but time', () => {
    write('kept', 'a file where the folder should be')
    expect(run()).toBe(FINE)
  })
})
