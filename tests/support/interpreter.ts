import { createDecipheriv } from 'node:crypto'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { installRuntime } from '../../standins/board/board'
import type { Chip } from '../../src/core/bundle/chipClass'
import type { Bus } from '../../standins/world/i2c'

export const WRAP = 2 ** 30

/**
 * The interpreter with the runtime's files, and a clock, pins and buses the test holds in its hands. One per test file.
 */
export async function interpreter(deviceDir = 'device', chip: Chip = '32-class') {
  const lines: string[] = []
  const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true })
  const world = {
    ms: 0,
    us: 0,
    inputs: new Map<number, number>(),
    levels: new Map<number, number>(),
    modes: new Map<number, string>(),
    codes: [0],
    duty: new Map<number, number>(),
    asked: 0,
    edges: new Map<number, () => void>(),
    bus: null as Bus | null,
    serial: [] as number[],
    lamps: '',
    written: (_pin: number, _level: number) => undefined as void,
    microvolts: null as number | null,
    /** Waiting takes time. */
    waits: false,
  }
  const timers = new Map<number, { at: number; call: () => void }>()
  mp.registerJsModule('_world', {
    chip,
    ticks_ms: () => world.ms % WRAP,
    ticks_us: () => (world.ms * 1000 + world.us) % WRAP,
    pass_us: (us: number) => {
      if (world.waits) world.us += us
    },
    pin_mode: (n: number, mode: string, pull: string, level: number) => {
      world.modes.set(n, `${mode} ${pull}`)
      if (level >= 0) world.levels.set(n, level)
      return ''
    },
    pin_write: (n: number, level: number) => {
      world.levels.set(n, level)
      world.written(n, level)
    },
    pin_read: (n: number) => {
      world.asked += 1
      return world.inputs.get(n) ?? 1
    },
    pin_irq: (n: number, _both: boolean, _hard: boolean, call: (us: number, level: number) => void) => {
      world.edges.set(n, () => call((world.ms * 1000 + world.us) % WRAP, world.inputs.get(n) ?? 1))
    },
    pin_irq_off: (n: number) => {
      world.edges.delete(n)
    },
    pin_hold: () => undefined,
    timer_new: () => timers.size + 1,
    timer_off: (id: number) => {
      timers.delete(id)
    },
    timer_set: (id: number, ms: number, _again: boolean, call: () => void) => {
      timers.set(id, { at: world.ms + ms, call })
    },
    wdt: () => undefined,
    feed: () => undefined,
    bitten: () => false,
    adc_read: () => world.codes[world.asked++ % world.codes.length] ?? 0,
    get adc_uv() {
      return world.microvolts === null ? null : () => world.microvolts
    },
    pwm_freq: () => undefined,
    pwm_duty: (n: number, duty: number) => {
      world.duty.set(n, duty)
    },
    pwm_made: () => undefined,
    pwm_off: (n: number) => {
      world.duty.delete(n)
    },
    lamps: (_n: number, text: string) => {
      world.lamps = text
    },
    i2c_write: (_a: number, _b: number, address: number, text: string) =>
      world.bus?.write(address, [...Buffer.from(text, 'hex')]) ?? false,
    i2c_read: (_a: number, _b: number, address: number, n: number) =>
      Buffer.from(world.bus?.read(address, n) ?? []).toString('hex'),
    uart_any: () => world.serial.length,
    uart_read: (_n: number, n: number) => Buffer.from(world.serial.splice(0, n)).toString('hex'),
    aes_open: (key: string, iv: string, data: string) => {
      const cipher = createDecipheriv('aes-128-cbc', Buffer.from(key, 'hex'), Buffer.from(iv, 'hex')).setAutoPadding(
        false,
      )
      return Buffer.concat([cipher.update(Buffer.from(data, 'hex')), cipher.final()]).toString('hex')
    },
  })
  installRuntime(mp, { deviceDir, shimDir: 'standins/board/shims' }, chip)
  /** Calls a Python function with JSON and reads the JSON it prints. */
  const call = (name: string, arg: unknown = null): unknown => {
    const fn: unknown = mp.globals.get(name)
    if (typeof fn !== 'function') throw new Error(`no ${name}`)
    lines.length = 0
    fn(JSON.stringify(arg))
    // What the program says at the console is not its answer.
    const answer = lines.filter((l) => !l.startsWith('vn '))
    return answer.length === 0 ? undefined : JSON.parse(answer.join(''))
  }
  return { mp, world, call }
}
