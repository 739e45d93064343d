import fs from 'node:fs'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { importsAtLoad } from '../src/core/bundle/neededModules'
import { compile } from '../src/core/nodefile/compile'
import { type NodeFileSignal } from '../src/core/nodefile/nodeFile'
import { canonicalJson } from '../src/core/hash/canonicalJson'
import { runtimeFiles } from '../src/server/nodes/installBundle'
import { twentySignals } from '../tests/support/twentySignals'
import { catalog } from '../tests/support/designs'
import { designSchema } from '../src/core/model/design'
import { installRuntime } from '../standins/board/board'
import { NO_SURROUNDINGS } from '../src/core/surroundings/surroundings'

/** What the stand-in modules ask of their world. */
const WORLD = [
  'ticks_ms',
  'ticks_us',
  'pass_us',
  'bitten',
  'pin_mode',
  'pin_write',
  'pin_read',
  'pin_irq',
  'pin_irq_off',
  'pin_hold',
  'adc_read',
  'pwm_made',
  'pwm_freq',
  'pwm_duty',
  'pwm_off',
  'lamps',
  'i2c_write',
  'i2c_read',
  'uart_any',
  'uart_read',
  'timer_new',
  'timer_set',
  'timer_off',
  'wdt',
  'feed',
  'wifi_up',
  'wifi_active',
]
const OUT = 'src/core/bundle/moduleHeap.json'

/**
 * Measures what every module takes once it is loaded precompiled, and every kind of running signal, and writes the
 * table.
 */
export async function writeModuleHeap(deviceDir: string): Promise<void> {
  const sources = runtimeFiles('device')
  const imports = importsAtLoad(sources)
  const lines: string[] = []
  const modules: Record<string, { heapB: number; smallB: number; imports: string[] }> = {}
  const start = async (chip: 'rp2040', deviceDir: string) => {
    const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true, heapsize: 1024 * 1024 })
    const nothing: Record<string, unknown> = { chip }
    for (const name of WORLD)
      nothing[name] = () => {
        if (name === 'wifi_up' || name === 'bitten') return false
        if (name.endsWith('_mode')) return ''
        return 0
      }
    mp.registerJsModule('_world', nothing)
    installRuntime(mp, { deviceDir, shimDir: 'standins/board/shims' }, chip)
    mp.runPython(
      'import gc, json, time, machine, network, socket, binascii, hashlib, select, errno, math, array, framebuf, micropython\nfor m in ("onewire", "neopixel"): __import__(m)',
    )
    // What this chip does not have beside its processor; it is loaded here and not run.
    mp.runPython("import sys\nclass _Beside: pass\nsys.modules['esp32'] = _Beside")
    const used = () => {
      lines.length = 0
      mp.runPython('gc.collect()')
      mp.runPython('gc.collect()\nprint(gc.mem_alloc())')
      return Number(lines[0])
    }
    const load = (path: string) => {
      if (path === 'main.py' || path in loaded) return
      for (const next of imports(path) ?? []) load(next)
      const before = used()
      mp.runPython(`import ${path.replace(/\.py$/, '').replaceAll('/', '.')}`)
      const heapB = Math.max(0, used() - before)
      loaded[path] = { heapB, smallB: 0, imports: imports(path) ?? [] }
    }
    const loaded: typeof modules = {}
    // Tables of names grow by doubling: a large one first, so that no module pays for the next.
    mp.runPython('for _n in range(2600): exec("w%d" % _n, {"w%d" % _n: 0})')
    return { mp, used, load, loaded }
  }
  // One interpreter a thread; this chip's loads them all.
  const board = await start('rp2040', deviceDir)
  const carried = (path: string) => path === 'main.py' || fs.existsSync(`${deviceDir}/${path.replace(/\.py$/, '.mpy')}`)
  for (const path of Object.keys(sources).filter(carried).sort()) board.load(path)
  Object.assign(modules, board.loaded)
  if (deviceDir !== 'build/device') {
    // The same modules with short names: beside what is there already.
    const whole = JSON.parse(fs.readFileSync(OUT, 'utf8')) as { modules: typeof modules }
    for (const [path, m] of Object.entries(modules))
      whole.modules[path] = { ...m, heapB: whole.modules[path]?.heapB ?? 0, smallB: m.heapB }
    fs.writeFileSync(OUT, `${JSON.stringify(whole, null, 1)}\n`)
    return
  }
  const files = [
    twentySignals(),
    ...['slip-tank', 'damp-cupboard', 'kiln-vent', 'wheel-panel', 'yard-bridge', 'gallery-door'].map((n) =>
      designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${n}.json`, 'utf8'))),
    ),
  ].flatMap((d) => {
    const made = compile(d, NO_SURROUNDINGS, catalog, { host: '192.0.2.1', port: 1883, root: 'vn' }, 1)
    return made.ok ? [made.compiled.file] : []
  })
  const signals: Record<string, number> = {}
  const family = { t: 350, zero: [350, 1050], one: [1050, 350], high: 350, gap: 10_850, n: 24, tol: 175 }
  const says = { family, repeats: 6, on: '0'.repeat(24), off: '1'.repeat(24) }
  const saying: NodeFileSignal = {
    slug: 'far',
    access: 'output',
    driver: 'transmitter',
    pins: { a: 5 },
    permille: 100,
    says,
    publish: { everyS: 0 },
  }
  board.mp.runPython(
    'import vn.signals\nkept = []\ndef begin(text):\n    kept.append(vn.signals.start(json.loads(text)))',
  )
  const begin = board.mp.globals.get('begin') as (text: string) => void
  for (const spec of [...files.flatMap((f): NodeFileSignal[] => f.signals), saying]) {
    if (spec.driver === 'radio') continue
    const before = board.used()
    begin(JSON.stringify(spec))
    signals[spec.driver] = Math.max(signals[spec.driver] ?? 0, board.used() - before)
  }
  signals.radio = 1024 + 528 + 700 // the ring alone is 1 KiB, two frames half of one
  const text = JSON.stringify(files[0])
  board.mp.runPython(`text = None\nparsed = None`)
  const before = board.used()
  board.mp.FS.writeFile('/file.json', text)
  board.mp.runPython("parsed = json.loads(open('/file.json').read())")
  const readFactor = Math.round(((board.used() - before) / text.length) * 100) / 100
  const sorted = Object.fromEntries(Object.entries(modules).sort(([a], [b]) => (a < b ? -1 : 1)))
  fs.writeFileSync(
    OUT,
    `${JSON.stringify({ runningB: 7200, readFactor, signals: JSON.parse(canonicalJson(signals)) as unknown, modules: sorted }, null, 1)}\n`,
  )
}
