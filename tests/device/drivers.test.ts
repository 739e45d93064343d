import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { beforeEach, describe, expect, test } from 'vitest'
import { installRuntime } from '../../standins/board/board'

// Drivers by themselves, on the interpreter they run on, with a clock and pins the test holds in its hands.
const WRAP = 2 ** 30
const world = { ms: 0, inputs: new Map<number, number>(), levels: new Map<number, number>(), modes: new Map<number, string>(), codes: [0], duty: new Map<number, number>(), asked: 0 }
const lines: string[] = []
const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true })
installRuntime(mp, { deviceDir: 'device', shimDir: 'standins/board/shims' })
mp.registerJsModule('_world', {
  ticks_ms: () => world.ms % WRAP, ticks_us: () => (world.ms * 1000) % WRAP, pass_us: () => undefined,
  pin_mode: (n: number, mode: string, pull: string, level: number) => {
    world.modes.set(n, `${mode} ${pull}`)
    if (level >= 0) world.levels.set(n, level)
    return ''
  },
  pin_write: (n: number, level: number) => { world.levels.set(n, level) },
  pin_read: (n: number) => { world.asked += 1; return world.inputs.get(n) ?? 1 },
  adc_read: () => world.codes[world.asked++ % world.codes.length] ?? 0,
  pwm_freq: () => undefined, pwm_duty: (n: number, duty: number) => { world.duty.set(n, duty) },
})
mp.runPython(`
import json, time
from vn import hw
from vn.drivers import contact, key, adc, pwm, relay
KINDS = {'contact': contact, 'key': key, 'adc': adc, 'pwm': pwm, 'relay': relay}
driver = None
def begin(text):
    global driver
    job = json.loads(text)
    driver = KINDS[job['driver']].Driver(job)
def step(_):
    print(json.dumps(driver.step(hw.ticks_ms())))
def state(_):
    print(json.dumps(driver.state()))
def command(text):
    print(json.dumps(driver.command(json.loads(text), hw.ticks_ms())))
def fault(_):
    print(json.dumps(driver.fault))
`)

function call(name: string, arg: unknown = null): unknown {
  const fn: unknown = mp.globals.get(name)
  if (typeof fn !== 'function') throw new Error(`no ${name}`)
  lines.length = 0
  fn(JSON.stringify(arg))
  return lines.length === 0 ? undefined : JSON.parse(lines.join(''))
}
/** Lets time pass in steps of 20 ms, as the board's loop does. */
const pass = (ms: number) => {
  const end = world.ms + ms
  const got: unknown[] = []
  while (world.ms < end) {
    world.ms += 20
    const told = call('step')
    if (told !== null && told !== undefined) got.push(told)
  }
  return got
}
beforeEach(() => {
  world.ms = 0
  for (const map of [world.inputs, world.levels, world.modes, world.duty]) map.clear()
})

describe('contact', () => {
  const door = { driver: 'contact', slug: 'door', pins: { a: 4 }, activeLow: false, pull: 'up', debounceMs: 50, holdS: 0 }
  test('begins with what it finds, without an edge of its own', () => {
    world.inputs.set(4, 1)
    call('begin', door)
    expect(world.modes.get(4)).toBe('in up')
    expect(call('state')).toBe(true)
  })
  test('needs its level for the whole of its time: 40 ms are nothing, 80 ms are', () => {
    world.inputs.set(4, 0)
    call('begin', door)
    pass(100)
    world.inputs.set(4, 1)
    pass(40)
    world.inputs.set(4, 0)
    pass(100)
    expect(call('state')).toBe(false)
    world.inputs.set(4, 1)
    pass(80)
    expect(call('state')).toBe(true)
  })
  test('holds for its time, and the wrap of the clock in the middle changes nothing', () => {
    for (const from of [1000, WRAP - 700]) {
      world.ms = from
      world.inputs.set(4, 1)
      call('begin', { ...door, holdS: 1.5 })
      pass(200)
      world.inputs.set(4, 0)
      pass(1400)
      expect(call('state'), `from ${from}`).toBe(true)
      pass(400)
      expect(call('state'), `from ${from}`).toBe(false)
    }
  })
})

describe('key of a matrix', () => {
  test('asks by pulling its row for a moment only, and tells one press once', () => {
    call('begin', { driver: 'key', slug: 'six', pins: { row: 2, column: 7 }, pull: 'up', debounceMs: 20 })
    expect(world.modes.get(2)).toBe('open-drain none')
    expect(world.modes.get(7)).toBe('in up')
    expect(pass(100)).toEqual([])
    expect(world.levels.get(2)).toBe(1)
    world.inputs.set(7, 0)
    expect(pass(400)).toEqual([['single']])
    world.inputs.set(7, 1)
    expect(pass(200)).toEqual([])
    world.inputs.set(7, 0)
    expect(pass(100)).toEqual([['single']])
  })
})

describe('voltage', () => {
  test('is the mean of its samples on a straight line, four times a second', () => {
    // Codes of a quarter and three quarters: half of 3.1 V is 1.55 V; 2.75 m/V less 0.6875 m.
    world.codes = [16384, 49151]
    call('begin', { driver: 'adc', slug: 'level', pins: { a: 34 }, fullV: 3.1, atZero: -0.6875, perVolt: 2.75 })
    const got = pass(1000) as [number][]
    expect(got.length).toBeGreaterThanOrEqual(4)
    expect(got.length).toBeLessThanOrEqual(5)
    for (const [v] of got) expect(v).toBeCloseTo(2.75 * 1.55 - 0.6875, 3)
  })
})

describe('dimmed output', () => {
  const lamp = { driver: 'pwm', slug: 'lamp', pins: { a: 5 }, hz: 1000, activeLow: false, atStart: 'off', longestOnS: 2 }
  test('is off before anything else, in either sense', () => {
    call('begin', lamp)
    expect([world.levels.get(5), world.duty.get(5)]).toEqual([0, 0])
    call('begin', { ...lamp, activeLow: true })
    expect([world.levels.get(5), world.duty.get(5)]).toEqual([1, 65535])
    call('command', 25)
    expect(world.duty.get(5)).toBe(65535 - 16384)
  })
  test.each([[true], ['40'], [-1], [101], [null], [{ value: 3 }]])('refuses %j and keeps what it has', (wish) => {
    call('begin', lamp)
    call('command', 40)
    expect(call('command', wish)).toBe('takes a number from 0 to 100')
    expect(call('state')).toBe(40)
  })
  test('goes off after its longest time, counted from when it went on, over the wrap as well', () => {
    for (const from of [0, WRAP - 900]) {
      world.ms = from
      call('begin', lamp)
      expect(call('command', 40)).toBeNull()
      pass(1000)
      call('command', 80)
      pass(900)
      expect(call('state'), `from ${from}`).toBe(80)
      pass(300)
      expect([call('state'), world.duty.get(5)], `from ${from}`).toEqual([0, 0])
      expect(call('fault')).toMatch(/longest on-time reached/)
    }
  })
})

describe('relay', () => {
  test('its longest on-time survives the wrap of the clock', () => {
    world.ms = WRAP - 500
    call('begin', { driver: 'relay', slug: 'pump', pins: { in: 3 }, activeLow: true, longestOnS: 1 })
    expect(world.levels.get(3)).toBe(1)
    call('command', true)
    expect(world.levels.get(3)).toBe(0)
    pass(900)
    expect(world.levels.get(3)).toBe(0)
    pass(200)
    expect(world.levels.get(3)).toBe(1)
  })
})
