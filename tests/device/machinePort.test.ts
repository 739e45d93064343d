import { EventEmitter } from 'node:events'
import { ClassicReset, Transport, UsbJtagSerialReset } from 'esptool-js'
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

/** What the lines stood at for longer than it takes to change one after the other. */
async function held(how: (over: Transport) => { reset: () => Promise<void> }) {
  const adapter = new Adapter()
  const port = new MachinePort('a line', () => Promise.resolve(adapter as unknown as Port))
  await port.open({ baudRate: 115_200 })
  await how(new Transport(port as unknown as ConstructorParameters<typeof Transport>[0])).reset()
  return adapter.seen.flatMap(({ at, ...lines }, i) => {
    const until = adapter.seen[i + 1]?.at ?? Infinity
    return until - at >= 20 ? [lines] : []
  })
}
const FREE = { reset: false, strap: false }
const RESET = { reset: true, strap: false }
const STRAP = { reset: false, strap: true }

test('the loader library’s own resets, by a bridge and by the USB of the chip, stand on the lines as they are meant', async () => {
  expect(await held((over) => new ClassicReset(over, 50))).toEqual([RESET, STRAP, FREE])
  expect(await held((over) => new UsbJtagSerialReset(over))).toEqual([FREE, STRAP, RESET, FREE])
})
