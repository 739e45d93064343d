import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { chainStep, type ChainSettings, startChain } from '../../src/core/conditioning/chain'
import { debounceStep, startDebounce } from '../../src/core/conditioning/debounce'
import { installRuntime } from '../../standins/board/board'
import { oneWireCrc } from '../../standins/world/oneWireThermometer'

const lines: string[] = []
const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true })
installRuntime(mp, { deviceDir: 'device', shimDir: 'standins/board/shims' })
mp.registerJsModule('_world', {})
mp.runPython(`
import json, struct, binascii
from vn.chain import Chain
from vn.debounce import Debounce
from vn.drivers.onewire import crc8
def number(h): return None if h is None else struct.unpack('<d', binascii.unhexlify(h))[0]
def hexed(v): return None if v is None else str(binascii.hexlify(struct.pack('<d', v)), 'utf-8')
def chain(text):
    job = json.loads(text)
    c = Chain({k: number(v) if isinstance(v, str) else v for k, v in job['spec'].items()})
    print(json.dumps([hexed(c.step(number(r), number(s))) for r, s in job['trace']]))
def debounce(text):
    job = json.loads(text)
    d = Debounce(job['first'], job['wait'])
    out = []
    for level, now in job['trace']:
        d.step(level, now)
        out.append(d.stable)
    print(json.dumps(out))
def crc(text): print(crc8(bytes(json.loads(text))))
`)

/** Runs a function of the device's code on JSON and reads what it prints. */
function onBoard(name: string, job: unknown): unknown {
  const call: unknown = mp.globals.get(name)
  if (typeof call !== 'function') throw new Error(`no ${name}`)
  lines.length = 0
  call(JSON.stringify(job))
  return JSON.parse(lines.join(''))
}

const hex = (v: number) => {
  const b = Buffer.alloc(8)
  b.writeDoubleLE(v)
  return b.toString('hex')
}
const number = fc.double({ min: -5, max: 5, noNaN: true })

test('the chain on the board and in the core give the same numbers to the last bit', () => {
  const settings = fc.record({
    min: fc.constant(-4), max: fc.constant(4), median: fc.constantFrom(1, 3, 5, 7, 9), averageS: fc.oneof(fc.constant(0), fc.double({ min: 0.1, max: 100, noNaN: true })),
    mountM: fc.option(fc.double({ min: 0, max: 3, noNaN: true })), gain: fc.double({ min: 0.5, max: 2, noNaN: true }), offset: number,
  })
  const trace = fc.array(fc.tuple(fc.option(number, { freq: 6 }), fc.double({ min: 0.01, max: 3, noNaN: true })), { maxLength: 60 })
  fc.assert(fc.property(settings, trace, (spec: ChainSettings, readings) => {
    let state = startChain()
    const core = readings.map(([reading, since]) => {
      const step = chainStep(spec, state, reading, since)
      state = step.state
      return step.value === null ? null : hex(step.value)
    })
    const sent = Object.fromEntries(Object.entries(spec).map(([k, v]) => [k, typeof v === 'number' && k !== 'median' ? hex(v) : v]))
    expect(onBoard('chain', { spec: sent, trace: readings.map(([r, s]) => [r === null ? null : hex(r), hex(s)]) })).toEqual(core)
  }), { numRuns: 150 })
})

test('the debounce on the board and in the core agree on any trace', () => {
  fc.assert(fc.property(fc.boolean(), fc.integer({ min: 0, max: 60 }), fc.array(fc.tuple(fc.boolean(), fc.integer({ min: 1, max: 40 })), { maxLength: 60 }), (first, wait, steps) => {
    let now = 0
    const trace = steps.map(([level, gap]) => [level, now += gap] as const)
    let state = startDebounce(first)
    const core = trace.map(([level, at]) => (state = debounceStep(state, level, at, wait)).stable)
    expect(onBoard('debounce', { first, wait, trace })).toEqual(core)
  }), { numRuns: 150 })
})

test('one-wire checksum: the example of the application note, and both sides alike on anything', () => {
  // Address 02 1C B8 01 00 00 00 has checksum A2.
  const example = [0x02, 0x1c, 0xb8, 0x01, 0x00, 0x00, 0x00]
  expect(oneWireCrc(example)).toBe(0xa2)
  expect(onBoard('crc', [...example, 0xa2])).toBe(0)
  fc.assert(fc.property(fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 16 }), (bytes) => {
    expect(onBoard('crc', bytes)).toBe(oneWireCrc(bytes))
  }))
})
