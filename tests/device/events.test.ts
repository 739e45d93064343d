import fc from 'fast-check'
import { parser } from 'mqtt-packet'
import { expect, test } from 'vitest'
import { interpreter } from '../support/interpreter'

// An event is told once or not at all. The client as it is, on a connection that ends after any number of bytes; what
// arrived is read by another implementation of the protocol.
const { mp, call } = await interpreter()
mp.runPython(`
import json
from vn import hw, mqtt
class Line:
    """Takes so many bytes and then is gone, or takes nothing any more; the last piece may be in pieces."""
    def __init__(self, room, silent, piece):
        self.room, self.silent, self.piece, self.got, self.state, self.why, self.inbox = room, silent, piece, b'', 'open', '', b''
    def check(self): return True
    def send(self, data):
        if self.state == 'closed': return 0
        n = min(len(data), self.piece, self.room)
        self.room -= n
        self.got += bytes(data[:n])
        if self.room == 0 and not self.silent: self.state = 'closed'
        return n
    def receive(self, limit):
        data, self.inbox = self.inbox, b''
        return data or None
    def close(self): self.state = 'closed'
def run(text):
    job = json.loads(text)
    lines, now = [], 1000
    hw.up_s = 1
    hw.ticks_ms = lambda: now
    def begin(room, silent):
        line = Line(room, silent, job['piece'])
        mqtt.net.Tcp = lambda *a: line
        lines.append(line)
        c.start(now)
        for _ in range(4): c.step(now)
        line.inbox = b'\\x20\\x02\\x00\\x00'
        c.step(now)
    c = mqtt.Client(('192.0.2.1', 1, None), b'', 10, lambda: None, lambda *a: None)
    begin(job['before'] + job['room'], job['silent'])
    c.publish('vn/n/door', '"open"', True, 1)
    c.publish('vn/n/bell', '"single"', False, 1, now)
    c.publish('vn/n/fault', '{}', False, 1)
    def go(ms):
        nonlocal now
        while ms > 0:
            now += 10
            ms -= 10
            hw.up_s = now // 1000
            c.step(now)
    go(job['wait'])
    c.stop(False)
    begin(100000, False)
    go(3000)
    print(json.dumps({'lines': [list(l.got) for l in lines], 'late': [[t, s, a, m] for t, s, a, m in c.late], 'unacked': len(c.unacked)}))
`)

interface Ran {
  lines: number[][]
  late: [string, string, number, boolean][]
  unacked: number
}

function packetsOf(bytes: number[]) {
  const found: { topic: string; dup: boolean }[] = []
  const p = parser()
  p.on('packet', (packet) => packet.cmd === 'publish' && found.push({ topic: packet.topic, dup: packet.dup }))
  p.on('error', (e) => {
    throw e
  })
  p.parse(Buffer.from(bytes))
  return found
}
const DOOR = 2 + 2 + 9 + 2 + 6
const BELL = 2 + 2 + 9 + 2 + 8

test('the line cut at every byte of an event: never two, and a report where it may have been one', () => {
  for (const silent of [false, true])
    for (const piece of [1, 7, 4096])
      for (let room = 0; room <= BELL + 3; room++) {
        const r = call('run', { before: DOOR, room, silent, piece, wait: 500 }) as Ran
        const bells = r.lines.map((l) => packetsOf(l).filter((p) => p.topic === 'vn/n/bell'))
        const all = bells.flat()
        const where = `${room} of ${BELL} bytes, pieces of ${piece}${silent ? ', silent' : ''}`
        expect(all.length, where).toBeLessThanOrEqual(1)
        expect(
          all.every((p) => !p.dup),
          where,
        ).toBe(true)
        // None of it has left: it is told with the new connection, and nothing is reported.
        if (room === 0) expect([all.length, r.late.length], where).toEqual([1, 0])
        else {
          expect(bells[1], where).toEqual([])
          expect(r.late, where).toEqual([['vn/n/bell', '"single"', 1, true]])
        }
        // A state that was not confirmed is said again, marked as such when it may have arrived.
        const doors = packetsOf(r.lines[1] ?? []).filter((p) => p.topic === 'vn/n/door')
        expect(doors, where).toEqual([{ topic: 'vn/n/door', dup: true }])
      }
})

test('one that could not leave within two seconds does not leave any more, and is reported with its age', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 60 }).map((n) => n * 100),
      (wait) => {
        const r = call('run', { before: DOOR, room: 0, silent: true, piece: 4096, wait }) as Ran
        const told = r.lines.flatMap((l) => packetsOf(l)).filter((p) => p.topic === 'vn/n/bell').length
        expect([told, r.late.length]).toEqual(wait > 2000 ? [0, 1] : [1, 0])
        if (wait > 2000) expect(r.late[0]).toEqual(['vn/n/bell', '"single"', 1, false])
      },
    ),
    { numRuns: 40 },
  )
})
