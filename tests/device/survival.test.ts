import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { EditBody } from '../../src/core/edits/edit'
import type { Product } from '../../src/server/product'
import { type RaisedBoard, raiseBoard, type Without } from '../support/boards'
import { listen, startProduct } from '../support/product'

// What a node has to live through, on the real broker with the real runtime. Each has a control: the same with the
// guard taken out of the runtime's source must fail, or the test would prove nothing.
let product: Product
let outside: Awaited<ReturnType<typeof listen>>
beforeAll(async () => {
  product = await startProduct()
  outside = await listen(product)
})
afterAll(async () => {
  await outside.end()
  await product.stop()
})

/** Where a board's millisecond counter begins at nought again. */
const TICKS = 2 ** 30
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))
/** Guards that stand for a whole class of troubles; those in depth behind them are not all taken out one by one. */
interface Case {
  name: string
  guard: Without
  edits?: EditBody[]
  ticksMs?: number
  lives: (b: RaisedBoard) => Promise<void>
}
const addPart = (partId: string, part: string, channel: string): EditBody => ({
  kind: 'add-part',
  partId,
  part,
  label: partId,
  signals: [{ id: `s${partId}`, channel, slug: partId }],
})
const last = (b: RaisedBoard, leaf: string, from = 0) =>
  outside.heard.slice(from).filter((h) => h.topic === `${b.base}/${leaf}`)

const CASES: Case[] = [
  // The two that wait longest come first.
  {
    name: 'presses while there is no broker: one that may have left is reported as such, one that waited too long as not told; none is repeated',
    guard: {
      file: 'vn/mqtt.py',
      find: 'not entry[3] and hw.ticks_diff(now, entry[2][2]) > STALE_MS',
      put: 'False',
    },
    lives: async (b) => {
      await pause(500)
      const from = outside.heard.length
      await b.deed({ cut: true })
      await pause(300)
      await b.deed({ press: 120 })
      await pause(16_000)
      await b.deed({ press: 120 })
      await pause(3000)
      await b.deed({ cut: false })
      const report = await b.heard('fault', (h) => h.text.includes('could not be told'), 70_000, from)
      expect(JSON.parse(report.text)).toMatchObject({ where: 'press' })
      await b.heard('fault', (h) => h.text.includes('perhaps told'), 8000, from)
      expect(outside.heard.slice(from).filter((h) => h.topic === `${b.base}/press`)).toEqual([])
    },
  },
  {
    name: 'the clock of the chip wraps: intervals and the longest on-time survive it',
    guard: { file: 'vn/hw.py', find: 'ticks_diff = time.ticks_diff', put: 'ticks_diff = lambda a, b: a - b' },
    ticksMs: TICKS - 40_000,
    edits: [{ kind: 'condition', signalId: 'spump', set: { longestOnS: 6 } }],
    lives: async (b) => {
      // The pump goes on three seconds before the counter begins at nought again, for six. How far it is only the board
      // knows.
      await b.deed({ run: 'from vn import hw\nprint("ticks", hw.ticks_ms())' })
      let ticks: RegExpExecArray | null = null
      for (let n = 0; n < 200 && !ticks; n++) {
        await pause(50)
        ticks = /ticks (\d+)/.exec(b.log.join(''))
      }
      const left = TICKS - Number(ticks?.[1])
      expect(left).toBeGreaterThan(3000)
      await pause(left - 3000)
      expect(await b.command('pump', true)).toMatchObject({ result: 'done' })
      const on = outside.heard.length
      await pause(5000)
      expect(last(b, 'pump', on).every((h) => h.text === 'true')).toBe(true)
      await b.heard('fault', (h) => h.text.includes('longest on-time'), 12_000, on)
      await b.heard('level', () => true, 10_000, outside.heard.length)
    },
  },
  {
    name: 'the network goes away and comes back: the node finds its way by itself',
    guard: {
      file: 'vn/node.py',
      find: 'if self.wifi_asked is None or hw.ticks_diff(now, self.wifi_asked) > JOIN_MS:',
      put: 'if self.wifi_asked is None:',
    },
    lives: async (b) => {
      // Longer than one asking waits: whoever asks once only is never let in again.
      await b.deed({ fault: 'no network', for: 8 })
      await outside.until((h) => h.topic === `${b.base}/status` && h.text === '{"is":"offline"}', 20_000)
      const since = outside.heard.length
      await b.here(40_000, since)
    },
  },
  {
    name: 'the connection stalls without a word: given up after half a keep-alive without an answer, and made anew',
    guard: { file: 'vn/mqtt.py', find: ' or hw.ticks_diff(now, self.heard) > half)', put: ')' },
    lives: async (b) => {
      // Readings go out all the time; nobody takes them.
      await b.deed({
        run: 'from vn import hw\n_step = _node.by_slug["level"].step\n_node.by_slug["level"].step = lambda now: _step(now) or "1"',
      })
      await pause(600)
      await b.deed({
        run: 'from vn import net\nnet.Tcp.send = lambda self, data: len(data)\nnet.Tcp.receive = lambda self, limit: None',
      })
      const given = () => /link (down|tcp|login) /.test(b.log.join(''))
      for (let n = 0; n < 24 && !given(); n++) {
        await pause(500)
        await b.deed({ run: 'print("link", _node.client.state, _node.client.reason)' })
      }
      expect(given(), b.log.join('').slice(-300)).toBe(true)
    },
  },
  {
    name: 'a part is unplugged and plugged in again: unknown meanwhile, never its last value, then itself',
    guard: {
      file: 'vn/signals.py',
      find: 'self.value = self.chain.step(got[0], since)',
      put: 'self.value = self.chain.step(got[0], since) if got[0] is not None else self.value',
    },
    lives: async (b) => {
      await b.heard('water', (h) => Number(h.text) > 5)
      const from = outside.heard.length
      await b.deed({ fault: 'unplugged', for: 6 })
      await b.heard('water', (h) => h.text === 'null', 5900, from)
      await b.heard('water', (h) => Number(h.text) > 5, 11_000, outside.heard.length)
    },
  },
  {
    name: 'garbage on the bus: what fails its checksum is no reading',
    guard: { file: 'vn/onewire_bus.py', find: 'if crc8(data) != 0 or data == bytes(9):', put: 'if False:' },
    edits: [
      { kind: 'publish', signalId: 'swater', set: { intervalS: 1, change: 0 } },
      { kind: 'condition', signalId: 'swater', set: { median: 1, averageS: 0 } },
    ],
    lives: async (b) => {
      await b.heard('water', (h) => Number(h.text) > 5)
      // One bit of the first byte is read wrong each time, four degrees off: an eight-bit checksum never misses a
      // single bit.
      await b.deed({
        run: `
class _Noisy:
    def __init__(self, wire):
        self.wire, self.writebyte, self.count = wire, wire.writebyte, 0
    def reset(self):
        self.count = 0
        return self.wire.reset()
    def readbyte(self):
        self.count += 1
        return self.wire.readbyte() ^ (0x40 if self.count == 1 else 0)
_node.by_slug["water"].driver.wire = _Noisy(_node.by_slug["water"].driver.wire)
print("noisy")`,
      })
      for (let n = 0; n < 200 && !b.log.join('').includes('noisy'); n++) await pause(50)
      // What was measured before it may still be told; after one whole round of measuring nothing is.
      await pause(5000)
      const from = outside.heard.length
      await pause(8000)
      const told = last(b, 'water', from).map((h) => h.text)
      expect(told.length).toBeGreaterThan(2)
      expect(new Set(told)).toEqual(new Set(['null']))
    },
  },
  {
    name: 'wrong commands: refused with the reason, nothing switched',
    guard: { file: 'vn/drivers/relay.py', find: 'if value is not True and value is not False:', put: 'if False:' },
    lives: async (b) => {
      for (const wrong of ['on', 1, null, [true], { on: true }])
        expect(await b.command('pump', wrong)).toMatchObject({ result: 'refused' })
      expect(last(b, 'pump').some((h) => h.text === 'true')).toBe(false)
      expect(await b.command('water', true)).toMatchObject({
        result: 'refused',
        reason: 'this signal takes no commands',
      })
      expect(await b.command('pumpp', true)).toMatchObject({ result: 'refused', reason: 'no such signal' })
    },
  },
  {
    name: 'a command sent twice is done once: a pulse is not begun again',
    guard: {
      file: 'vn/command.py',
      find: 'if ident is not None and (where, ident) in node.done_ids:',
      put: 'if False:',
    },
    edits: [{ kind: 'condition', signalId: 'spump', set: { pulseS: 6 } }],
    lives: async (b) => {
      const id = randomUUID()
      const from = outside.heard.length
      expect(await b.command('pump', true, { id })).toMatchObject({ result: 'done' })
      const on = (await b.heard('pump', (h) => h.text === 'true', 4000, from)).at
      await pause(4000)
      expect(await b.command('pump', true, { id })).toMatchObject({ result: 'done' })
      const off = await b.heard('pump', (h) => h.text === 'false' && h.at > on, 12_000, from)
      expect(off.at - on).toBeLessThan(8000)
    },
  },
  {
    name: 'a command that comes too late is refused, and none with a time is done before the clock is set',
    guard: { file: 'vn/command.py', find: 'return "too late" if', put: 'return None if' },
    lives: async (b) => {
      const utc = Math.floor(Date.now() / 1000)
      expect(await b.command('pump', true, { until: utc - 5 })).toMatchObject({ result: 'refused', reason: 'too late' })
      expect(await b.command('pump', false, { until: utc + 30 })).toMatchObject({ result: 'done' })
    },
  },
  {
    name: 'the clock is unknown: commands with a time wait for it, the others do not',
    guard: { file: 'vn/command.py', find: '        return "the clock is not set yet"', put: '        return None' },
    lives: async (b) => {
      // Other nodes’ arrivals bring the time along; this one is kept from hearing it, and asks nobody.
      await b.deed({
        run: `_hear = _node._message
def _deaf(topic, payload, retained):
    if topic != _node.root + "/time":
        _hear(topic, payload, retained)
_node._message = _node.client.on_message = _deaf
_node.asking = _node.clock_set = None
_node.clock_at = 1 << 29
print("no clock")`,
      })
      for (let n = 0; n < 100 && !b.log.join('').includes('no clock'); n++) await pause(50)
      expect(await b.command('pump', true, { until: Math.floor(Date.now() / 1000) + 30 })).toMatchObject({
        result: 'refused',
        reason: 'the clock is not set yet',
      })
      expect(await b.command('pump', false)).toMatchObject({ result: 'done' })
    },
  },
  {
    name: 'memory runs low in one driver: that step is lost and said, the rest goes on',
    guard: {
      file: 'vn/node.py',
      find: 'except MemoryError:\n                gc.collect()\n                text = None',
      put: 'except KeyboardInterrupt:\n                text = None',
    },
    lives: async (b) => {
      const from = outside.heard.length
      await b.deed({ run: 'def _full(now): raise MemoryError\n_node.by_slug["water"].driver.step = _full' })
      const fault = await b.heard('fault', (h) => h.text.includes('no memory'), 20_000, from)
      expect(JSON.parse(fault.text)).toMatchObject({ where: 'water', what: 'no memory for this step' })
      expect(await b.command('pump', false)).toMatchObject({ result: 'done' })
    },
  },
  {
    name: 'a driver breaks down: its reading is unknown and said once, the others go on',
    guard: {
      file: 'vn/node.py',
      find: 'except Exception as e:\n                # One part',
      put: 'except KeyboardInterrupt as e:\n                # One part',
    },
    lives: async (b) => {
      await b.heard('water', (h) => h.text !== 'null')
      const from = outside.heard.length
      await b.deed({ run: 'def _broken(now): raise OSError(5)\n_node.by_slug["water"].driver.step = _broken' })
      await b.heard('water', (h) => h.text === 'null', 6000, from)
      await pause(1500)
      expect(last(b, 'fault', from)).toHaveLength(1)
      await b.heard('level', () => true, 8000, outside.heard.length)
    },
  },
  {
    name: 'a guard holds against commands, and lets go when its input does',
    guard: {
      file: 'vn/guards.py',
      find: 'elif g["kind"] == "needs" and g["output"] == slug and by_slug[g["input"]].now_is() is not g["is"]:',
      put: 'elif False:',
    },
    edits: [
      addPart('flap', 'contact-reed', 'open'),
      { kind: 'set-guard', guardId: 'gg', guard: { kind: 'needs', output: 'spump', input: 'sflap', is: true } },
      { kind: 'condition', signalId: 'spump', set: { longestOnS: 0 } },
    ],
    lives: async (b) => {
      await b.deed({ contact: 'flap', closed: true })
      await b.heard('flap', (h) => h.text === 'false')
      expect(await b.command('pump', true)).toMatchObject({ result: 'refused', reason: 'flap is not on' })
      await b.deed({ contact: 'flap', closed: false })
      await b.heard('flap', (h) => h.text === 'true')
      expect(await b.command('pump', true)).toMatchObject({ result: 'done' })
      const from = outside.heard.length
      await b.deed({ contact: 'flap', closed: true })
      await b.heard('pump', (h) => h.text === 'false', 3000, from)
      expect((await b.heard('fault', (h) => h.text.includes('flap is not on'), 3000, from)).text).toContain(
        'switched off',
      )
    },
  },
  {
    name: 'a local rule switches without a broker, a detached input never, one for loneliness only then',
    guard: { file: 'vn/rules.py', find: '(works == "alone" and alone)', put: 'works == "alone"' },
    edits: [
      addPart('flap', 'contact-reed', 'open'),
      {
        kind: 'set-rule',
        ruleId: 'r1',
        rule: { from: 'sflap', when: true, forS: 0, to: 'spump', do: true, works: 'alone' },
      },
      {
        kind: 'set-rule',
        ruleId: 'r2',
        rule: { from: 'spress', when: 'single', forS: 0, to: 'spump', do: 'toggle', works: 'detached' },
      },
      { kind: 'condition', signalId: 'spump', set: { longestOnS: 0 } },
    ],
    lives: async (b) => {
      await b.deed({ contact: 'flap', closed: true })
      await b.heard('flap', (h) => h.text === 'false')
      await b.deed({ press: 120 })
      await b.heard('press')
      await b.deed({ contact: 'flap', closed: false })
      await b.heard('flap', (h) => h.text === 'true')
      await pause(500)
      expect(last(b, 'pump').some((h) => h.text === 'true')).toBe(false)
      await b.deed({ contact: 'flap', closed: true })
      await pause(500)
      await b.deed({ cut: true })
      await pause(7000)
      const from = outside.heard.length
      await b.deed({ contact: 'flap', closed: false })
      await pause(500)
      await b.deed({ cut: false })
      await b.here(20_000, from)
      await b.heard('pump', (h) => h.text === 'true', 3000, from)
    },
  },
  {
    name: 'power returns: an output comes back as it was only where the file says so',
    guard: { file: 'vn/load.py', find: 'value = node.last.value(s.slug)', put: 'value = None' },
    edits: [{ kind: 'condition', signalId: 'spump', set: { atStart: 'last', longestOnS: 0 } }],
    lives: async (b) => {
      expect(await b.command('pump', true)).toMatchObject({ result: 'done' })
      // It is written when it has been so for five seconds.
      await pause(6000)
      const from = outside.heard.length
      await b.replug()
      await b.heard('pump', (h) => h.text === 'true', 5000, from)
    },
  },
  {
    name: 'power returns: a threshold that a command has shifted is where it was put',
    guard: { file: 'vn/last.py', find: 'getattr(s, "keep", s.now_is)()', put: 's.now_is()' },
    edits: [
      {
        kind: 'make-state',
        signalId: 'swarm',
        of: 'swater',
        name: 'Warm',
        slug: 'warm',
        letter: 'S',
        levels: { words: ['cold', 'warm'], cuts: [60], band: 0, holdS: [0, 0], unknown: null, on: 1, shift: 59 },
      },
    ],
    lives: async (b) => {
      await b.heard('warm', (h) => h.text === 'false', 20_000)
      expect(await b.command('warm', -60)).toMatchObject({ result: 'refused', reason: 'takes a number from -59 to 59' })
      expect(await b.command('warm', true)).toMatchObject({ result: 'refused' })
      expect(await b.command('warm', -59)).toMatchObject({ result: 'done' })
      await b.heard('warm', (h) => h.text === 'true', 5000)
      await pause(6000)
      const from = outside.heard.length
      await b.replug()
      await b.heard('warm', (h) => h.text === 'true', 20_000, from)
    },
  },
]

async function livesThrough(c: Case, without?: Without): Promise<true | string> {
  const board = await raiseBoard(product, outside, c.edits, { without, ticksMs: c.ticksMs })
  try {
    await c.lives(board)
    return true
  } catch (e) {
    return e instanceof Error ? e.message : String(e)
  } finally {
    await board.end()
  }
}

describe.concurrent('a node lives through', () => {
  test.each(CASES)(
    '$name',
    async (c) => {
      const [whole, without] = await Promise.all([livesThrough(c), livesThrough(c, c.guard)])
      expect(whole).toBe(true)
      expect(without, 'without its guard it must not').not.toBe(true)
    },
    170_000,
  )
})

test('the broker is gone for a while, process and all: the node tries again and again, and one that tries once is lost', async () => {
  const own = await startProduct()
  const ears = await listen(own)
  const boards = await Promise.all([
    raiseBoard(own, ears),
    raiseBoard(own, ears, [], {
      without: {
        file: 'vn/node.py',
        find: 'if self.retry_at is not None and hw.ticks_diff(now, self.retry_at) < 0:',
        put: 'if self.wait_ms > FIRST_WAIT_MS:',
      },
    }),
  ])
  await ears.end()
  await own.stop()
  await pause(6000)
  const again = await startProduct(own.options.dataFolder, own.options.mqttPort)
  const earsAgain = await listen(again)
  try {
    const [whole, without] = await Promise.all(
      boards.map((b) =>
        earsAgain
          .until((h) => h.topic === `${b.base}/level` && !h.retain && Number(h.text) > 0, 30_000)
          .then(
            () => true,
            () => false,
          ),
      ),
    )
    expect(whole).toBe(true)
    expect(without, 'without its guard it must not').toBe(false)
  } finally {
    await Promise.all(boards.map((b) => b.end()))
    await earsAgain.end()
    await again.stop()
  }
}, 170_000)
