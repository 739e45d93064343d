import {
  type Conditioning,
  CONDITIONING_KEYS,
  type ConditioningKey,
  conditioningField,
} from '../../src/core/model/conditioning'
import fs from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { bundleFiles, ON_BOARD } from '../../src/core/bundle/bundleFiles'
import { installSteps } from '../../src/core/bundle/installSteps'
import { neededModules } from '../../src/core/bundle/neededModules'
import { applyEdit } from '../../src/core/edits/apply'
import { type Design, designSchema } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { sha256Hex } from '../../src/core/hash/sha256Hex'
import { compile } from '../../src/core/nodefile/compile'
import { semanticDiff } from '../../src/core/nodefile/semanticDiff'
import type { NodeFile } from '../../src/core/nodefile/nodeFile'
import { importNodeFile } from '../../src/core/nodefile/importNodeFile'
import { describe as describeThing } from '../../src/core/publish/describe'
import { networkAdvice } from '../../src/core/shop/networkAdvice'
import { readRuntime, runtimeFiles } from '../../src/server/nodes/installBundle'
import { after, blank, catalog, slipTank } from '../support/designs'
import { kinds } from '../support/edits'
import { twentySignals } from '../support/twentySignals'
import { surroundings } from '../../src/core/surroundings/surroundings'
import { shopSchema } from '../../src/core/shop/shop'

const yard = shopSchema.parse(JSON.parse(fs.readFileSync('demo/shop.json', 'utf8')))
const around = (design: Design) => surroundings(design, yard)

const broker = { host: '127.0.0.1', port: 1883, root: 'vn' }
const fileOf = (design: Design, revision = 1): NodeFile => {
  const result = compile(design, around(design), catalog, broker, revision)
  if (!result.ok) throw new Error(result.reasons.join('; '))
  return result.compiled.file
}
const demo = (name: string): Design =>
  designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${name}.json`, 'utf8')))
const words = (a: Design, b: Design) => semanticDiff(fileOf(a), fileOf(b, 2)).map((d) => d.words)
const pretty = (file: NodeFile) => JSON.stringify(file, null, 2)

describe('what sending changes', () => {
  const tank = slipTank()
  const cases: [string, EditBody, string[]][] = [
    ['a median', { kind: 'condition', signalId: 'slevel', set: { median: 3 } }, ['median 5 → 3 on level']],
    [
      'a value that was usual',
      { kind: 'condition', signalId: 'spump', set: { pulseS: 0.8 } },
      ['pulse 0 s → 0.8 s on pump'],
    ],
    [
      'a height, in the unit of the bench',
      { kind: 'condition', signalId: 'slevel', set: { mountM: 0.908 } },
      ['mounting height 900 mm → 908 mm on level'],
    ],
    [
      'presses',
      { kind: 'condition', signalId: 'spress', set: { patterns: ['single', 'long'] } },
      ['presses single → single, long on press'],
    ],
    ['a new name', { kind: 'rename-signal', signalId: 'slevel', name: 'slip', slug: 'slip' }, ['level is called slip']],
    [
      'a name and a place of the node',
      { kind: 'identify', name: 'Tank two', slug: 'tank-two', place: null },
      ['place Clay yard → none', 'name none → Tank two', 'name in topics slip-tank → tank-two'],
    ],
    ['a signal gone', { kind: 'remove-signal', signalId: 'swater' }, ['gone: water']],
    [
      'a local rule',
      {
        kind: 'set-rule',
        ruleId: 'rr',
        rule: { from: 'spress', when: 'single', forS: 0, to: 'spump', do: 'toggle', works: 'alone' },
      },
      ['new rule: press single → pump toggles, while there is no broker'],
    ],
    [
      'a fixed address',
      {
        kind: 'connect',
        ref: 'house',
        address: 'fixed',
        keepAliveS: 10,
        fixed: { ip: '10.0.0.9', mask: '255.0.0.0', gateway: '10.0.0.1', dns: '10.0.0.1' },
      },
      [
        'name server none → 10.0.0.1',
        'gateway none → 10.0.0.1',
        'fixed address none → 10.0.0.9',
        'mask none → 255.0.0.0',
      ],
    ],
    ['another pin', { kind: 'lock', line: 'button.a', pin: 'D32' }, ['pin of A 23 → 32 on press']],
  ]
  test.each(cases)('%s is said in words', (_, edit, expected) => {
    expect(words(tank, after(tank, edit))).toEqual(expected)
  })

  test('nothing is said exactly when the board would do the same, whatever was edited', () => {
    const differs = (a: Design, b: Design) => {
      const plain = (d: Design) => canonicalJson({ ...fileOf(d, 1) })
      return plain(a) !== plain(b)
    }
    let said = 0
    fc.assert(
      fc.property(fc.array(fc.oneof(...Object.values(kinds)), { minLength: 1, maxLength: 4 }), (edits) => {
        const next = edits.reduce((d, e) => {
          const r = applyEdit(d, e, catalog)
          return r.ok ? r.design : d
        }, tank)
        if (!compile(next, around(next), catalog, broker, 1).ok) return
        const meaning = semanticDiff(fileOf(tank), fileOf(next))
        if (meaning.length > 0) said += 1
        expect(meaning.length > 0).toBe(differs(tank, next))
      }),
      { numRuns: 150 },
    )
    expect(said).toBeGreaterThan(20)
  })
})

describe('an edited node file taken back', () => {
  const tank = slipTank()
  const edited = (change: (f: NodeFile) => void, of = tank) => {
    const file = structuredClone(fileOf(of))
    change(file)
    return pretty(file)
  }
  const by = <D extends NodeFile['signals'][number]['driver']>(f: NodeFile, driver: D) => {
    const found = f.signals.find((s) => s.driver === driver)
    if (found?.driver !== driver) throw new Error(driver)
    return found as Extract<NodeFile['signals'][number], { driver: D }>
  }

  test('what the design can express comes back, and compiling it gives the edited file', () => {
    const text = edited((f) => {
      Object.assign(by(f, 'ranger').chain, { median: 3, averageS: 4 })
      by(f, 'ranger').publish.factor = 100
      by(f, 'ranger').slug = 'slip'
      Object.assign(by(f, 'relay'), { pulseS: 2, longestOnS: 40, atStart: 'last' })
      by(f, 'button').presses = { used: ['single', 'double'], gapMs: 350, longMs: 700 }
      by(f, 'button').pins.a = 32
      f.area = 'Glaze store'
      f.rules = [{ from: 'press', when: 'double', to: 'pump', do: true }]
    })
    const taken = importNodeFile(text, tank, around(tank), catalog, broker)
    if (!taken.ok) throw new Error(JSON.stringify(taken.problems))
    expect(canonicalJson(fileOf(taken.design))).toBe(canonicalJson(JSON.parse(text)))
    expect(taken.leftOut).toEqual([])
    expect(taken.design.signals.slevel?.publish.unit).toBe('cm')
    // One step, one way back.
    const applied = applyEdit(tank, { kind: 'revert', of: 'node file', changes: taken.changes }, catalog)
    expect(applied.ok && canonicalJson(applied.design)).toBe(canonicalJson(taken.design))
  })

  test('any design’s own file taken back changes nothing', () => {
    for (const name of ['slip-tank', 'damp-cupboard', 'kiln-vent', 'wheel-panel', 'yard-bridge', 'gallery-door']) {
      const design = demo(name)
      expect(importNodeFile(pretty(fileOf(design)), design, around(design), catalog, broker), name).toMatchObject({
        ok: true,
        changes: [],
        done: [],
        leftOut: [],
      })
    }
  })

  const wrong: [string, string, RegExp, string][] = [
    ['a pin that only reads', '"in": 13', /only reads; IN needs a pin that drives/, '"in": 34'],
    ['a pin the board does not have', '"in": 13', /pin 7, which this board does not have/, '"in": 7'],
    ['an unknown name', '"averageS"', /name “averagS”/, '"averagS"'],
    ['a driver of another kind', '"driver": "relay"', /./, '"driver": "relai"'],
    ['a value out of range', '"longestOnS": 90', /found -3|at least/, '"longestOnS": -3'],
    ['a unit that does not exist', '"factor": 1000', /found 7/, '"factor": 7'],
    ['another node', '"id": "', /another node|UUID|uuid/, '"id": "1'],
    ['a comma too many', '"revision": 1', /found/, '"revision": 1,'],
  ]
  test.each(wrong)('%s: line, column and words, and nothing is changed', (_, good, found, bad) => {
    const text = pretty(fileOf(tank))
    expect(text).toContain(good)
    const spoilt = text.replace(good, bad)
    const taken = importNodeFile(spoilt, tank, around(tank), catalog, broker)
    if (taken.ok) throw new Error('taken')
    const [first] = taken.problems
    expect(`found ${first?.found}, expected ${first?.expected}`).toMatch(found)
    const line = spoilt.slice(0, spoilt.indexOf(bad)).split('\n').length
    expect(
      taken.problems.some((p) => Math.abs(p.line - line) <= 2),
      JSON.stringify(taken.problems),
    ).toBe(true)
    expect(first?.column).toBeGreaterThan(0)
  })

  test('a signal that is not in the design names the nearest; what parts decide is left out and said by line', () => {
    const strange = importNodeFile(
      edited((f) => {
        Object.assign(by(f, 'ranger'), { slug: 'levle', pins: { trig: 1, echo: 3 } })
      }),
      tank,
      around(tank),
      catalog,
      broker,
    )
    expect(strange).toMatchObject({ ok: false, problems: [{ nearest: 'level' }] })
    const left = importNodeFile(
      edited((f) => {
        by(f, 'relay').activeLow = false
        by(f, 'ranger').chain.gain = 1.5
        f.broker.port = 1999
      }),
      tank,
      around(tank),
      catalog,
      broker,
    )
    expect(left).toMatchObject({ ok: true, done: [], changes: [] })
    expect(left.ok && left.leftOut.map((p) => p.path).sort()).toEqual([
      'broker',
      'signals › 0 › chain › gain',
      'signals › 1 › activeLow',
    ])
  })

  test('no text at all makes it throw or do half of it', () => {
    const whole = pretty(fileOf(tank))
    fc.assert(
      fc.property(fc.nat(whole.length), fc.nat(12), fc.string({ maxLength: 6 }), (at, cut, put) => {
        const taken = importNodeFile(
          whole.slice(0, at) + put + whole.slice(at + cut),
          tank,
          around(tank),
          catalog,
          broker,
        )
        if (taken.ok) designSchema.parse(taken.design)
        else expect(taken.problems.length).toBeGreaterThan(0)
      }),
      { numRuns: 250 },
    )
  })
})

describe('the node file', () => {
  test('of twenty signals of every kind has at most 8 KiB', () => {
    const design = twentySignals()
    expect(Object.keys(design.signals)).toHaveLength(20)
    const bytes = new TextEncoder().encode(canonicalJson(fileOf(design))).length
    expect(bytes).toBeLessThanOrEqual(8192)
    // The tank’s four signals are far from that.
    expect(bytes).toBeGreaterThan(3000)
  })

  test('announces the presses that are used, no others', () => {
    const design = after(slipTank(), { kind: 'condition', signalId: 'spress', set: { patterns: ['single', 'triple'] } })
    expect(describeThing(design, around(design), catalog, broker).events).toMatchObject({
      press: { data: { enum: ['single', 'triple'] } },
    })
  })

  test('is the same however the names of rules and guards happen to be ordered', () => {
    const vent = demo('kiln-vent')
    const turned = { ...vent, rules: Object.fromEntries(Object.entries(vent.rules).reverse()) }
    expect(Object.keys(turned.rules)).not.toEqual(Object.keys(vent.rules))
    expect(canonicalJson(fileOf(turned))).toBe(canonicalJson(fileOf(vent)))
  })

  test('of a text or a colour nobody can say whether it is on: no guard speaks of one, no rule switches a text', () => {
    const told = (partId: string, part: string, channel: string): EditBody => ({
      kind: 'add-part',
      partId,
      part,
      label: partId,
      signals: [{ id: `s${partId}`, channel }],
    })
    const design = after(slipTank(), told('glow', 'led-string', 'colour'), told('show', 'display-i2c', 'text'))
    for (const other of ['sglow', 'sshow'])
      expect(
        applyEdit(
          design,
          { kind: 'set-guard', guardId: 'gg', guard: { kind: 'exclusive', of: ['spump', other] } },
          catalog,
        ),
        other,
      ).toMatchObject({ ok: false, reason: expect.stringMatching(/neither on nor off/) })
    const rule = (to: string, does: boolean | 'toggle') =>
      applyEdit(
        design,
        {
          kind: 'set-rule',
          ruleId: 'rr',
          rule: { from: 'spress', when: 'single', forS: 0, to, do: does, works: 'always' },
        },
        catalog,
      ).ok
    expect([rule('sshow', true), rule('sglow', 'toggle'), rule('sglow', true), rule('spump', 'toggle')]).toEqual([
      false,
      false,
      true,
      true,
    ])
  })

  test('an output can follow only a state, and a rule asks for a press that is then told', () => {
    const tank = slipTank()
    expect(
      applyEdit(tank, { kind: 'condition', signalId: 'spump', set: { atStart: 'follow', follows: 'spress' } }, catalog),
    ).toMatchObject({ ok: false })
    const ruled = after(tank, {
      kind: 'set-rule',
      ruleId: 'rr',
      rule: { from: 'spress', when: 'triple', forS: 0, to: 'spump', do: true, works: 'always' },
    })
    expect(ruled.signals.spress?.conditioning.patterns).toEqual(['single', 'triple'])
    // What speaks of a signal that is gone goes with it.
    expect(after(ruled, { kind: 'remove-signal', signalId: 'spress' }).rules).toEqual({})
  })
})

describe('the install bundle', () => {
  const board = (d: Design) =>
    catalog.boards[d.board.id] ??
    (() => {
      throw new Error(d.board.id)
    })()
  const secret = {
    broker: { name: 'node-slip-tank', password: 'hush' },
    networks: { house: [{ name: 'yard', password: 'whisper' }] },
    key: 'ab',
    n: 1,
  }
  const made = (d: Design, withSecret = false) => {
    const result = compile(d, around(d), catalog, broker, 7)
    if (!result.ok) throw new Error(result.reasons.join())
    return bundleFiles(
      { design: d, catalog, board: board(d) },
      result.compiled,
      readRuntime('.', board(d).interpreter.chip),
      { secret: withSecret ? secret : null },
    )
  }

  test('has the drivers in use and no others, and everything they import', () => {
    const modules = neededModules(fileOf(slipTank()), runtimeFiles('device'), '32-class')
    expect(modules.filter((m) => m.startsWith('vn/drivers/')).sort()).toEqual([
      'vn/drivers/button.py',
      'vn/drivers/onewire.py',
      'vn/drivers/ranger.py',
      'vn/drivers/relay.py',
    ])
    expect(modules).toContain('vn/vault.py')
    expect(modules).not.toContain('vn/sleep.py')
    const damp = neededModules(fileOf(demo('damp-cupboard')), runtimeFiles('device'), 'c3-class')
    expect(damp).toEqual(expect.arrayContaining(['vn/sleep.py', 'vn/i2cpart.py', 'vn/chips/climate_76.py']))
    // Whatever a module imports of ours is there.
    for (const name of ['slip-tank', 'damp-cupboard', 'kiln-vent', 'wheel-panel', 'yard-bridge', 'gallery-door']) {
      const have = new Set(
        neededModules(fileOf(demo(name)), runtimeFiles('device'), board(demo(name)).interpreter.chip),
      )
      for (const path of have)
        for (const [, from = '', what = ''] of (runtimeFiles('device')[path] ?? '').matchAll(
          /^from (vn(?:\.\w+)*) import (.+)$/gm,
        )) {
          const at = from.replaceAll('.', '/')
          for (const w of what.split(','))
            expect(
              have.has(`${at}.py`) || have.has(`${at}/${w.trim()}.py`),
              `${name}: ${path} imports ${from} ${w}`,
            ).toBe(true)
        }
    }
  })

  test('says revision and passwords in its name, carries none unasked, and its checksums are right', () => {
    const plain = made(slipTank())
    expect(plain.name).toBe('slip-tank-r7.zip')
    expect(Object.values(plain.files).join('\n')).not.toMatch(/hush|whisper/)
    expect(plain.files).toHaveProperty('secret.example.json')
    const full = made(slipTank(), true)
    expect(full.name).toBe('slip-tank-r7-with-passwords.zip')
    expect(JSON.parse(String(full.files[`${ON_BOARD}secret.json`]))).toEqual(secret)
    for (const [path, content] of Object.entries(full.files)) {
      if (path !== 'SHA256SUMS') expect(full.files.SHA256SUMS).toContain(`${sha256Hex(content)}  ${path}\n`)
    }
    expect(made(slipTank(), true)).toEqual(full)
  })

  test('steps are those of the board and of what is wired to it', () => {
    const steps = (d: Design) => installSteps(d, board(d), catalog, { name: 'x.zip', withPasswords: true })
    const titles = (d: Design) => steps(d).map((s) => s.title)
    expect(titles(demo('kiln-vent'))[0]).toBe('Mains off and away')
    expect(titles(slipTank())).not.toContain('Mains off and away')
    expect(titles(demo('yard-bridge'))).toEqual(expect.arrayContaining(['Receiver off', 'Receiver on']))
    expect(titles(demo('yard-bridge')).indexOf('Receiver off')).toBeLessThan(
      titles(demo('yard-bridge')).indexOf('Receiver on'),
    )
    expect(steps(demo('wheel-panel')).find((s) => s.title === 'Download mode')?.text).toMatch(/drive has appeared/)
    expect(steps(slipTank()).find((s) => s.title === 'Download mode')?.text).toMatch(/let go of BOOT/)
    const bare = { ...board(slipTank()), usb: 'none' as const }
    expect(
      installSteps(slipTank(), bare, catalog, { name: 'x.zip', withPasswords: true }).find((s) => s.title === 'Adapter')
        ?.text,
    ).toMatch(/3\.3 V, never 5 V.*cross/s)
    // A reset pin in use is named: 8266-class D3 starts download mode when it is low.
    const held = after(
      blank('board-8266-16'),
      { kind: 'add-part', partId: 'probe', part: 'thermometer-one-wire', label: 'probe', signals: [] },
      { kind: 'lock', line: 'probe.data', pin: 'D3' },
    )
    expect(titles(held)).toContain('D3 free')
  })
})

describe('passwords that break small devices', () => {
  const good = { name: 'kestrel-yard', password: 'clay-and-water-9', hidden: false, band: '2.4' as const }
  test('a plain one has nothing against it', () => expect(networkAdvice(good)).toEqual([]))
  test.each([
    [{ password: 'seven77' }, 'stop', /8 to 63/],
    [{ password: 'x'.repeat(64) }, 'stop', /8 to 63/],
    [{ password: 'a1'.repeat(32) }, null, /./],
    [{ password: 'grüne Glasur' }, 'fix', /ASCII/],
    [{ password: ' clay-and-water' }, 'fix', /blank/],
    [{ password: '' }, 'fix', /Without a password/],
    [{ band: '5' as const }, 'stop', /5 GHz/],
    [{ hidden: true }, 'note', /hidden/],
    [{ name: 'ü'.repeat(17) }, 'stop', /34/],
    [{ name: '' }, 'stop', /has 0/],
  ])('%j', (change, severity, said) => {
    const advice = networkAdvice({ ...good, ...change })
    if (severity === null) expect(advice).toEqual([])
    else expect(advice.find((a) => a.severity === severity)?.words).toMatch(said)
  })
})

describe('every field of conditioning', () => {
  /** What is said on the air is written by its driver and is not taken back: the make is not in the file. */
  type Key = Exclude<ConditioningKey, 'says'>
  const keys = CONDITIONING_KEYS.filter((key): key is Key => key !== 'says')
  /** Two values that differ from the usual one and from each other, by key; a key without them does not compile. */
  const VALUES: { [K in Key]: readonly [Conditioning[K], Conditioning[K]] } = {
    median: [3, 7],
    averageS: [2, 9],
    mountM: [0.5, 1.25],
    debounceMs: [11, 44],
    longestOnS: [31, 62],
    atStart: ['on', 'last'],
    follows: ['sdoor', 'sdoor'],
    pulseS: [1, 3],
    holdS: [4, 8],
    patterns: [['single', 'long'], ['double']],
    gapMs: [250, 350],
    longMs: [700, 900],
    levels: [
      { words: ['low', 'high'], cuts: [0.5], band: 0.1, holdS: [0, 5], unknown: null, on: 1 },
      { words: ['empty', 'some', 'full'], cuts: [0.2, 0.9], band: 0, holdS: [0, 0, 3], unknown: 0, on: 1 },
    ],
  }
  const door: EditBody = {
    kind: 'add-part',
    partId: 'door',
    part: 'contact-reed',
    label: 'Door',
    signals: [{ id: 'sdoor', channel: 'open' }],
  }
  /** A signal whose driver has the field. */
  const ON: { [K in Key]: string } = {
    median: 'slevel',
    averageS: 'slevel',
    mountM: 'slevel',
    debounceMs: 'spress',
    longestOnS: 'spump',
    atStart: 'spump',
    follows: 'spump',
    pulseS: 'spump',
    holdS: 'sdoor',
    patterns: 'spress',
    gapMs: 'spress',
    longMs: 'spress',
    levels: 'smade',
  }
  /** What has to stand beside it to mean anything. */
  const beside = (key: ConditioningKey): object => {
    if (key === 'follows') return { atStart: 'follow' }
    if (key === 'gapMs' || key === 'longMs') return { patterns: ['double'] }
    return {}
  }

  test.each(keys)('%s: in the file where the table says, in words, and back into the design', (key) => {
    const signalId = ON[key]
    const [one, two] = VALUES[key]
    const setTo = (value: unknown): EditBody =>
      ({ kind: 'condition', signalId, set: { ...beside(key), [key]: value } }) as EditBody
    const state: EditBody = {
      kind: 'make-state',
      signalId: 'smade',
      of: 'slevel',
      levels: { words: ['a', 'b'], cuts: [1], band: 0, holdS: [0, 0], unknown: null, on: 0 },
    }
    const from = after(slipTank(), door, state)
    const at = (design: Design) => {
      const found = fileOf(design).signals.find((s) => s.slug === design.signals[signalId]?.slug)
      return conditioningField(key)
        .file.path.split('.')
        .reduce<unknown>((v, step) => (v as Record<string, unknown> | undefined)?.[step], found)
    }
    const [first, second] = [after(from, setTo(one)), after(from, setTo(two))]
    if (key === 'follows') expect(at(first)).toBe(first.signals.sdoor?.slug)
    else expect([at(first), at(second)]).toEqual([one, two])
    // Words, and the way back, from one design into the other.
    const other = key === 'follows' ? from : first
    expect(words(other, second).join()).toContain(key === 'follows' ? 'at power-up' : conditioningField(key).words)
    const taken = importNodeFile(pretty(fileOf(second)), other, around(other), catalog, broker)
    expect(taken.ok && taken.design.signals[signalId]?.conditioning[key]).toEqual(two)
    expect(taken.ok && fileOf(taken.design)).toEqual(fileOf(second))
  })
})
