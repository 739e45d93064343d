import { EventEmitter } from 'node:events'
import { ClassicReset, Transport } from 'esptool-js'
import type { SerialPort as Port } from 'serialport'
import { expect, test } from 'vitest'
import { MachinePort } from '../../src/cli/serialPort'

/**
 * An adapter with the usual two transistors: the reset is low while RTS alone is asserted, the strap while DTR alone is.
 * `set` as the serial library documents it: a line that is given as nothing is let go of.
 */
class Adapter extends EventEmitter {
  isOpen = true
  readonly seen: { reset: boolean; strap: boolean }[] = []
  open(done: (e: Error | null) => void) {
    done(null)
  }
  set({ dtr, rts }: { dtr?: boolean; rts?: boolean }, done: (e: Error | null) => void) {
    this.seen.push({ reset: Boolean(rts) && !dtr, strap: Boolean(dtr) && !rts })
    done(null)
  }
}

test('the loader library’s own reset holds the board in reset and lets go of it with the strap low', async () => {
  const adapter = new Adapter()
  const port = new MachinePort('a line', () => Promise.resolve(adapter as unknown as Port))
  await port.open({ baudRate: 115_200 })
  await new ClassicReset(new Transport(port as unknown as ConstructorParameters<typeof Transport>[0]), 1).reset()
  const held = adapter.seen.findIndex((s) => s.reset)
  const released = adapter.seen.findIndex((s, i) => i > held && s.strap)
  expect(held).toBeGreaterThanOrEqual(0)
  expect(released).toBeGreaterThan(held)
  // Between the two nothing starts the board with its strap free for longer than one change of a line.
  expect(adapter.seen.slice(held, released).filter((s) => !s.reset && !s.strap).length).toBeLessThanOrEqual(1)
  expect(adapter.seen.at(-1)).toEqual({ reset: false, strap: false })
})
