import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { installRuntime } from '../../standins/board/board'

export interface TwoGateways {
  bursts: number
  seed: number
  /** Cuts of either gateway’s link, at random times; nobody says goodbye. */
  cuts: number
  /** Share of bursts each gateway hears. */
  hears: [number, number]
}

export interface Outcome {
  heard: number
  lost: number
  doubled: number
  claims: number
  retold: number
}

/**
 * Two gateways as boards run them (`device/vn/air.py`, twice in one interpreter), a broker and its links modelled beside
 * them: messages take their time, a cut loses what is on its way, and the broker tells of it only when its patience ends.
 * No product is there.
 */
export async function twoGateways(): Promise<{
  play: (wish: TwoGateways) => Outcome
  /** What the broker keeps of a door that was opened: after that, and when its state is over. */
  endOfAState: (cut: string[], mend: string[]) => string[]
}> {
  const lines: string[] = []
  const mp = await loadMicroPython({ stdout: (l) => lines.push(l), linebuffer: true, heapsize: 16 << 20 })
  installRuntime(mp, { deviceDir: 'device', shimDir: 'standins/board/shims' })
  mp.registerJsModule('_world', { chip: '32-class' })
  mp.runPython(MODEL)
  const run = (what: string, wish: object): unknown => {
    lines.length = 0
    const call = mp.globals.get(what) as (text: string) => void
    call(JSON.stringify(wish))
    return JSON.parse(lines.join(''))
  }
  return {
    play: (wish) => run('play', wish) as Outcome,
    endOfAState: (cut, mend) => run('end_of_a_state', { cut, mend }) as string[],
  }
}

const MODEL = `
import json
from vn import hw
from vn.air import Air
SENDERS = 24
KEEP_ALIVE = 6000  # ms of silence after which the broker gives a gateway up

class Chance:
    def __init__(self, seed):
        self.a = seed
    def next(self):
        self.a = (self.a * 1103515245 + 12345) & 0x7fffffff
        return (self.a >> 8) / 0x800000
    def below(self, n):
        return int(self.next() * n)

class Client:
    def __init__(self, gateway):
        self.gateway, self.state, self.on_message, self.n, self.out = gateway, 'up', None, 0, []
    def number(self):
        self.n += 1
        return self.n
    def publish(self, topic, payload, retain, qos, event_at=None):
        if self.state == 'up':
            self.gateway.yard.sent(self.gateway, topic, payload, retain)

class Node:
    def __init__(self, yard, slug):
        self.yard, self.slug, self.root, self.base = yard, slug, 'vn', 'vn/' + slug
        self.by_slug, self.uptime_s, self.cut, self.seen = {}, 0, False, 0
        self.client = Client(self)
        self.told_gone = False
    def _message(self, topic, payload, retained):
        pass

def signal(i, ends):
    on, off = '{:08b}0001'.format(i), '{:08b}1110'.format(i)
    if ends:
        return {'slug': 'it', 'kind': 'state', 'codes': {on: True, off: False}, 'endS': ends}
    return {'slug': 'it', 'kind': 'event', 'codes': {on: 'a', off: 'b'}}

class Yard:
    def __init__(self, wish):
        self.c = Chance(wish['seed'])
        self.now, self.way, self.retained, self.heard_by_all = 0, [], {}, []
        self.nodes = [Node(self, 'one'), Node(self, 'two')]
        for rank, n in enumerate(self.nodes):
            other = self.nodes[1 - rank].slug
            n.air = Air(n, {'families': [], 'senders': [
                {'slug': 's%d' % i, 'family': 0, 'address': '{:08b}....'.format(i), 'rank': rank, 'others': [other],
                 'signals': [signal(i, wish.get('ends'))]}
                for i in range(SENDERS)]}, None)
            self.retained['vn/' + n.slug + '/status'] = '{"is":"online"}'
        self.told = []
        self.claims = 0
        for n in self.nodes:
            self.subscribed(n)
    def sent(self, node, topic, payload, retain):
        if node.cut:
            return  # on its way when the link went
        self.way.append((self.now + 4 + self.c.below(50), topic, payload, retain))
    def arrive(self, topic, payload, retain):
        if retain:
            self.retained[topic] = payload
        leaf = topic.split('/')[2]
        if leaf == 'it':
            self.told.append((self.now, topic.split('/')[1], payload))
        if leaf == 'via':
            self.claims += 1
        if leaf in ('heard', 'via', 'status'):
            for n in self.nodes:
                if not n.cut and n.client.state == 'up':
                    self.way.append((self.now + 2 + self.c.below(30), n, topic, payload))
    def step(self, ms):
        self.now += ms
        due = [w for w in self.way if w[0] <= self.now]
        self.way = [w for w in self.way if w[0] > self.now]
        for w in due:
            if isinstance(w[1], str):
                self.arrive(w[1], w[2], w[3])
            elif not w[1].cut and w[1].client.on_message:
                w[1].client.on_message(w[2], w[3], False)
        for n in self.nodes:
            n.uptime_s = self.now // 1000
            if n.cut:
                # The gateway gives up after half a keep-alive without an answer, the broker after one and a half.
                if n.client.state == 'up' and self.now - n.cut_at > KEEP_ALIVE // 2:
                    n.client.state = 'down'
                if not n.told_gone and self.now - n.cut_at > KEEP_ALIVE * 3 // 2:
                    n.told_gone = True
                    self.arrive('vn/' + n.slug + '/status', '{"is":"offline"}', True)
            n.air.step({}, n.client.state != 'up', self.now)
    def cut(self, n):
        n.cut, n.cut_at, n.told_gone = True, self.now, False
    def mend(self, n):
        n.cut = False
        n.client = Client(n)
        self.arrive('vn/' + n.slug + '/status', '{"is":"online"}', True)
        self.subscribed(n)
    def subscribed(self, n):
        # What is retained comes with a subscription.
        for topic, payload in self.retained.items():
            leaf = topic.split('/')[2]
            if leaf in ('via', 'status'):
                self.way.append((self.now + 60, n, topic, payload))

def end_of_a_state(text):
    # Both hear a door open; then whoever is named loses its link, for ever or for the moment in which the state ends.
    wish = json.loads(text)
    yard = Yard({'seed': 1, 'ends': 30})
    hw.ticks_ms = lambda: yard.now
    kept = lambda: yard.retained.get('vn/s0/it')
    for _ in range(100):
        yard.step(20)
    for n in yard.nodes:
        n.air.heard.append((n.air.senders[0], b'000000000001'))
    for _ in range(500):
        yard.step(20)
    said = [kept()]
    for n in yard.nodes:
        if n.slug in wish['cut']:
            yard.cut(n)
    for _ in range(1750):
        yard.step(20)
    for n in yard.nodes:
        if n.slug in wish['mend']:
            yard.mend(n)
    for _ in range(100):
        yard.step(20)
    print(json.dumps(said + [kept()]))

def play(text):
    wish = json.loads(text)
    yard = Yard(wish)
    hw.ticks_ms = lambda: yard.now
    c = yard.c
    bursts, last = [], {}
    for _ in range(200):
        yard.step(20)
    spacing = 260
    cut_every = wish['bursts'] // (wish['cuts'] + 1) if wish['cuts'] else 0
    mend_at, cut_now = [], None
    for i in range(wish['bursts']):
        for _ in range(200):
            s = c.below(SENDERS)
            if yard.now - last.get(s, -9999) > 5000:
                break
            yard.step(20)
        last[s] = yard.now
        which = c.below(2)
        content = '{:08b}{}'.format(s, ('0001', '1110')[which])
        began = yard.now
        ears = [n for n, share in zip(yard.nodes, wish['hears']) if c.next() < share]
        # What only a gateway heard that has no link can be told by nobody.
        if [n for n in ears if not n.cut]:
            bursts.append((began, 's%d' % s, '"%s"' % 'ab'[which]))
        hear_at = [(began + 60 + c.below(250), n) for n in ears]
        end = began + spacing // 2 + c.below(spacing)
        if cut_every and i % cut_every == cut_every - 1 and len(mend_at) < 1:
            n = yard.nodes[c.below(2)]
            yard.cut(n)
            mend_at.append((yard.now + 1000 + c.below(30000), n))
        while yard.now < end or hear_at:
            yard.step(20)
            for h in [h for h in hear_at if h[0] <= yard.now]:
                h[1].air.heard.append((h[1].air.senders[s], content.encode()))
            hear_at = [h for h in hear_at if h[0] > yard.now]
            for m in [m for m in mend_at if m[0] <= yard.now]:
                yard.mend(m[1])
            mend_at = [m for m in mend_at if m[0] > yard.now]
    for _ in range(400):
        yard.step(20)
    # Each word that was told belongs to the last burst of that sender before it.
    counts = [0] * len(bursts)
    by = {}
    for k, (at, who, word) in enumerate(bursts):
        by.setdefault(who, []).append((at, word, k))
    retold = 0
    for at, who, word in yard.told:
        own = [b for b in by.get(who, []) if b[0] <= at and at - b[0] < 5000 and b[1] == word]
        if own:
            counts[own[-1][2]] += 1
        else:
            retold += 1
    print(json.dumps({'heard': len(bursts), 'lost': counts.count(0), 'doubled': len([n for n in counts if n > 1]), 'claims': yard.claims, 'retold': retold}))
`
