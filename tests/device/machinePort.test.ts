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
  readonly seen: { reset: boolean; strap: boolean; at: number }[] = []
  open(done: (e: Error | null) => void) {
    done(null)
  }
  set({ dtr, rts }: { dtr?: boolean; rts?: boolean }, done: (e: Error | null) => void) {
    this.seen.push({ reset: Boolean(rts) && !dtr, strap: Boolean(dtr) && !rts, at: performance.now() })
    done(null)
  }
}

test('the loader library’s own reset holds the board in reset and lets go of it with the strap low', async () => {
  const adapter = new Adapter()
  const port = new MachinePort('a line', () => Promise.resolve(adapter as unknown as Port))
  await port.open({ baudRate: 115_200 })
  await new ClassicReset(new Transport(port as unknown as ConstructorParameters<typeof Transport>[0]), 50).reset()
  // How long a state lasts until the next change of a line, ms: what is held only in passing resets no board.
  const lasting = adapter.seen.map((s, i) => ({ ...s, ms: (adapter.seen[i + 1]?.at ?? Infinity) - s.at }))
  const held = lasting.findIndex((s) => s.reset && s.ms >= 50)
  const released = lasting.findIndex((s, i) => i > held && s.strap && s.ms >= 1)
  expect(held).toBeGreaterThanOrEqual(0)
  expect(released).toBeGreaterThan(held)
  // On the way the strap is not free for longer than one change of a line.
  expect(lasting.slice(held, released).filter((s) => !s.reset && !s.strap && s.ms >= 1)).toEqual([])
  expect(lasting.at(-1)).toMatchObject({ reset: false, strap: false })
})
