import { beforeAll, describe, expect, test } from 'vitest'
import { sealFor, newNodeKey } from '../../src/server/secrets/vault'
import { interpreter } from '../support/interpreter'

// Power is taken away at every single step in which the board touches its flash, and again at every step of putting
// things right.
const { mp, call } = await interpreter()

beforeAll(() => {
  mp.runPython(`
import json, os, binascii, hashlib
from vn import hw, config, pieces, vault

class PowerLoss(Exception): pass
def digest(data): return str(binascii.hexlify(hashlib.sha256(data).digest()), 'utf-8')
real = os
names = ('node.json', 'td.json', 'node.new', 'td.new', 'trial', 'keep', 'secret.json', 'secret.json.new', 'secret.try', 'secret.try.new', 'pkg.new', 'pkg.of')
state = {'ops': 0, 'cut': -1, 'plain': False}

def tick():
    state['ops'] += 1
    if state['ops'] == state['cut']: raise PowerLoss

class Flash:
    """The file system below the hardware module; 'plain' cannot put one file in another's place."""
    def stat(self, path): return real.stat(path)
    def rename(self, a, b):
        tick()
        if state['plain'] and b in real.listdir(): raise OSError(17)
        real.rename(a, b)
    def remove(self, path):
        tick()
        real.remove(path)

def write(path, data):
    tick()
    with open(path, 'wb') as f: f.write(data[: len(data) // 2])
    tick()
    with open(path, 'wb') as f: f.write(data)

class Torn:
    """A file that is written piece by piece: the power may go before, within and after each."""
    def __init__(self, path, mode): self.f = open(path, mode)
    def __enter__(self): return self
    def __exit__(self, *a): self.f.close()
    def write(self, data):
        tick()
        self.f.write(data[: len(data) // 2])
        tick()
        self.f.write(data[len(data) // 2 :])
    def __getattr__(self, name): return getattr(self.f, name)

hw.os, hw.write = Flash(), write
config.open = pieces.open = lambda path, mode: open(path, mode) if mode == 'rb' else Torn(path, mode)
pieces.PIECE = 100

def put(path, text):
    with open(path, 'w') as f: f.write(text)

def clean():
    for n in names:
        if n in real.listdir(): real.remove(n)

def spec(revision): return json.dumps({'format': 'vivid-node/node-file', 'version': 1, 'id': 'me', 'revision': revision})
OLD, NEW = spec(1), spec(2)
PACKAGE = '\\n'.join((json.dumps({'id': 'cmd', 'revision': 2, 'hash': digest(NEW.encode())}), NEW, 'td of 2')).encode()

WHOLE = digest(PACKAGE)
PIECES = [PACKAGE[i : i + 100] for i in range(0, len(PACKAGE), 100)]

def send(n=0):
    """As the product does: one after the other, each time the one that is wanted."""
    while True:
        wanted = pieces.take({'n': n, 'of': len(PIECES), 'hash': WHOLE}, PIECES[n])
        if wanted == len(PIECES): break
        n = wanted
    assert pieces.known(WHOLE)
    config.receive(pieces.FILE, 'me')
    pieces.drop()

def change(keep):
    send()
    # The new file runs from beside the old one until it has connected.
    assert config.load(True)[0]['revision'] == 2
    if keep: config.keep()
    else: config.drop()

def seen():
    files = {n: hw.read(n).decode() for n in names if n in real.listdir()}
    try: revision = json.loads(files['node.json'])['revision']
    except (KeyError, ValueError): revision = None
    return revision, files.get('td.json'), [n for n in files if n not in ('node.json', 'td.json', 'pkg.new', 'pkg.of')]

def guarded(cut, work):
    """True when the power went during this."""
    state['ops'], state['cut'] = 0, cut
    try: work()
    except PowerLoss: return True
    finally: state['cut'] = -1
    return False

def begin():
    clean()
    put('node.json', OLD); put('td.json', 'td of 1')

def every(text):
    """Every place to lose power in the change, and every place to lose it again while it is put right: what is wrong afterwards."""
    job = json.loads(text)
    state['plain'] = job['plain']
    wrong, places, told = [], 0, 0
    cut = 1
    while True:
        begin()
        if not guarded(cut, lambda: change(job['keep'])): break
        again = 1
        while True:
            begin()
            guarded(cut, lambda: change(job['keep']))
            began = 'keep' in real.listdir()
            result = []
            lost = guarded(again, lambda: result.append(config.recover()))
            if lost: result = [config.recover()]
            places += 1
            revision, td, left = seen()
            if td != 'td of %s' % revision or left or revision not in (1, 2): wrong.append((cut, again, revision, td, left))
            if revision == 2 and not job['keep']: wrong.append((cut, again, 'kept what was dropped'))
            if began and revision != 2: wrong.append((cut, again, 'begun and not finished'))
            if revision == 1:
                # What has come already is used: it goes on, and comes out whole.
                send(1)
                config.keep()
                if seen() != (2, 'td of 2', []): wrong.append((cut, again, 'not resumed', seen()))
            if result[0]: told += 1
            if not lost: break
            again += 1
        cut += 1
    print(json.dumps({'wrong': wrong, 'places': places, 'told': told, 'whole': seen()[0]}))

def careless(_):
    """The control: the new file put in place without a marker of how far that has come."""
    def keep():
        hw.remove(config.TRIAL)
        hw.replace(config.NEW_FILE, config.FILE)
        hw.replace(config.NEW_TD, config.TD)
    careful, config.keep = config.keep, keep
    every(json.dumps({'keep': True, 'plain': False}))
    config.keep = careful

def sealed(text):
    job = json.loads(text)
    try: print(json.dumps(vault.unseal(job['key'], job['payload'].encode()).decode()))
    except ValueError: print(json.dumps(None))

class Node:
    """What sealed credentials know of a node."""
    def __init__(self):
        self.secret = json.loads(hw.read('secret.json'))
        self.network, self.joined = 'house', None
        self.client = self.wifi = self
    def quiet(self): return True
    def stop(self, gently): pass
    def leave(self): pass
    def enter(self): pass
    def _answer(self, *a): pass

def credentials(text):
    """The same for a changed password: which ways in the node has left, wherever the power went."""
    job = json.loads(text)
    state['plain'] = False
    wrong, places = [], 0
    old = {'broker': {'name': 'n', 'password': 'p'}, 'networks': {'house': [{'name': 'yard', 'password': 'old'}]}, 'key': job['key'], 'n': 0}
    def work():
        node = Node()
        sealed = vault.Vault(node)
        sealed.take(job['payload'].encode(), 0)
        sealed.step(10)
        if job['gets_in']:
            node.joined = node.secret['networks']['house'][-1]
            sealed.proven()
        else:
            sealed.step(70000)
    cut = 1
    while True:
        clean()
        put('secret.json', json.dumps(old))
        lost = guarded(cut, work)
        if lost:
            node = Node()
            if hw.exists('secret.try'):
                try: vault.Vault(node).recover()
                except ValueError: wrong.append((cut, 'try is not readable'))
        places += 1
        kept = json.loads(hw.read('secret.json'))
        ways = [w['password'] for w in kept['networks']['house']]
        if 'old' not in ways or hw.exists('secret.try'): wrong.append((cut, ways))
        if not lost: break
        cut += 1
    print(json.dumps({'wrong': wrong, 'places': places, 'ways': ways, 'n': kept['n']}))
`)
})

describe('a new node file, with the power going at any point', () => {
  test.each([
    [true, false],
    [true, true],
    [false, false],
    [false, true],
  ])(
    'kept %s, plain file system %s: old or new, whole, with its own description, and nothing left over',
    (keep, plain) => {
      const result = call('every', { keep, plain }) as { wrong: unknown[]; places: number; told: number; whole: number }
      expect(result.wrong).toEqual([])
      expect(result.places).toBeGreaterThan(12)
      // A trial the power has ended is told.
      expect(result.told).toBeGreaterThan(0)
      expect(result.whole).toBe(keep ? 2 : 1)
    },
  )

  test('control: without the marker some of these places leave a file with the other’s description, or none', () => {
    expect((call('careless') as { wrong: unknown[] }).wrong.length).toBeGreaterThan(0)
  })
})

describe('sealed credentials', () => {
  const key = newNodeKey()
  test('open with the node’s key and with no other; one changed letter anywhere and they do not', () => {
    const text = JSON.stringify({
      n: 3,
      id: 'x',
      do: 'network',
      ref: 'house',
      way: { name: 'yard', password: 'ümläut "quotes" \\ and more' },
    })
    const payload = sealFor(key, text)
    expect(payload).not.toContain('quotes')
    expect(call('sealed', { key, payload })).toBe(text)
    expect(call('sealed', { key: newNodeKey(), payload })).toBeNull()
    const bytes = Buffer.from(payload, 'base64')
    for (let at = 0; at < bytes.length; at += 7) {
      const spoiled = Buffer.from(bytes)
      spoiled[at] = (spoiled[at] ?? 0) ^ 1
      expect(call('sealed', { key, payload: spoiled.toString('base64') }), `byte ${at}`).toBeNull()
    }
    for (const payload of ['', 'x', 'AAAA', Buffer.alloc(64).toString('base64')])
      expect(call('sealed', { key, payload })).toBeNull()
  })

  const job = (n: number) =>
    sealFor(
      key,
      JSON.stringify({ n, id: 'house/2/a', do: 'network', ref: 'house', way: { name: 'yard', password: 'new' } }),
    )
  test.each([
    [true, ['old', 'new']],
    [false, ['old', 'new']],
  ])('wherever the power goes, the old way in is never lost (gets in: %s)', (gets_in, ways) => {
    const result = call('credentials', { key, payload: job(1), gets_in }) as {
      wrong: unknown[]
      places: number
      ways: string[]
      n: number
    }
    expect(result).toMatchObject({ wrong: [], ways, n: 1 })
    expect(result.places).toBeGreaterThan(6)
  })
})
