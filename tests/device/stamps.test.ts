import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { interpreter } from '../support/interpreter'

// Ticks tell before from after for 6.2 days. The node's own step, with a connection and a network the test holds in its
// hands.
const { mp, call } = await interpreter()
mp.runPython(`
import json
from vn import hw, mqtt, node
TOP = 1 << 30
class Client:
    state = 'up'
    unacked = []
    late = []
    lost = 0
    begun = 0
    def step(self, now): pass
    def stop(self, goodbye): self.state = 'down'
    def start(self, now, names): self.begun += 1; self.state = 'up'
    def publish(self, *a): pass
    def quiet(self): return True
class Station:
    def status(self): return 5
    def ifconfig(self): return ('192.0.2.9',)
class Wifi:
    here = True
    station = Station()
    asked = 0
    def up(self): return self.here
    def names(self): return ''
    def dbm(self): return None
class Bare(node.Node):
    def __init__(self): pass
class Join:
    @staticmethod
    def run(wifi, *a): wifi.asked += 1
class Arrive:
    @staticmethod
    def run(n): return iter(())
really = node.once
class Health:
    @staticmethod
    def run(n, now): n.health_at = now
node.once = lambda name: {'join': Join, 'arrive': Arrive, 'health': Health}.get(name) or really(name)
def session(text):
    """Hours of a session, then a loss: seconds until the network is asked, and until the broker is, after it is there again."""
    job = json.loads(text)
    n = Bare()
    n.secret = {'networks': {'house': [{'name': 'a', 'password': 'b'}]}}
    n.network, n.candidate, n.signals, n.slow, n.turn = 'house', 0, [], [], 0
    n.loading = n.arriving = n.sleeping = n.trial = n.vault = n.last = n.finding = n.sleep = n.rules = n.deadlines = n.health_at = None
    n.asking, n.close, n.clock_at = None, None, 1 << 60
    n.guards, n.told, n.health_s, n.base, n.revision, n.clock_set = (), {}, 600, 'x', 1, None
    now = job['ticks']
    n.started, n.uptime_s, n.wait_ms, n.wifi_asked = now, 0, 1000, None
    # Any stamp the node may have kept from before.
    n.retry_at = None if job['retry'] is None else (now + job['retry']) % TOP
    n.client, n.wifi = Client(), Wifi()
    n.client.state = 'down'
    def go(ms):
        nonlocal now
        now = (now + ms) % TOP
        n.step(now)
    for _ in range(60):
        if n.client.state == 'up': break
        go(1000)
    n._up()
    n.arriving = None
    for _ in range(job['hours']): go(3600000)
    n.wifi.here = False
    asked = None
    for s in range(400):
        go(1000)
        if n.wifi.asked and asked is None: asked = s
        if asked is not None: break
    n.wifi.here = True
    begun, before = None, n.client.begun
    for s in range(400):
        go(1000)
        if n.client.begun > before: begun = s; break
    print(json.dumps({'asked': asked, 'begun': begun, 'uptime': n.uptime_s}))
def old_event(text):
    """An event that waits for its answer for hours: still to be said again, or told as one that was."""
    job = json.loads(text)
    c = mqtt.Client(('192.0.2.1', 1, None), b'', 10, None, None)
    now = job['ticks']
    c.publish('t', '"single"', False, 1, now)
    for _ in range(job['steps']):
        now = (now + job['ms']) % TOP
        hw.up_s += job['ms'] // 1000
        c.step(now)
    print(json.dumps({'again': len(c.unacked), 'late': len(c.late)}))
`)
const ticks = fc.oneof(
  fc.integer({ min: 0, max: 2 ** 30 - 1 }),
  fc.constantFrom(2 ** 29 - 1, 2 ** 29, 2 ** 30 - 1000, 0),
)

describe('after a session of any length', () => {
  test('the network is asked within seconds, and the broker soon after it is there, whatever was stamped before', () => {
    fc.assert(
      fc.property(
        fc.record({
          ticks,
          hours: fc.integer({ min: 0, max: 960 }),
          retry: fc.option(fc.integer({ min: -60_000, max: 30_250 })),
        }),
        (job) => {
          const r = call('session', job) as { asked: number | null; begun: number | null; uptime: number }
          expect(r.asked).not.toBeNull()
          expect(r.asked).toBeLessThanOrEqual(2)
          expect(r.begun).not.toBeNull()
          expect(r.begun).toBeLessThanOrEqual(65)
          expect(r.uptime).toBeGreaterThanOrEqual(job.hours * 3600)
        },
      ),
      { numRuns: 25 },
    )
  }, 120_000)
  test('an event is never said again days later', () => {
    fc.assert(
      fc.property(
        ticks,
        fc.integer({ min: 1, max: 400 }),
        fc.integer({ min: 100, max: 3_600_000 }),
        (at, steps, ms) => {
          const r = call('old_event', { ticks: at, steps, ms }) as { again: number; late: number }
          expect(r).toEqual(steps * ms > 2000 ? { again: 0, late: 1 } : { again: 1, late: 0 })
        },
      ),
      { numRuns: 100 },
    )
  })
})
