import fc from 'fast-check'
import type { EditBody } from '../../src/core/edits/edit'
import { addPart, PARTS, slipTank } from './designs'

const pins = ['D13', 'D14', 'D19', 'D23', 'D25', 'D27', 'D32', 'D34', 'D4', 'VP', 'TX0', 'D99']
const lines = ['ranger.trig', 'ranger.echo', 'pumprelay.in', 'button.a', 'probe.data', 'gone.x']
const signals = ['slevel', 'spump', 'spress', 'swater', 'sgone']
const partIds = ['ranger', 'pumprelay', 'button', 'probe', 'gone']
const one = <T>(values: readonly T[]) => fc.constantFrom(...values)
const word = fc.stringMatching(/^[a-z][a-z0-9-]{0,12}$/)
export const record = '3f1f2a44-5d3a-4f44-9a53-6a2f9d1c0b7e'

/** One generator per edit kind; wishes that make no sense are among them and must be refused, not half done. */
export const kinds: Record<EditBody['kind'], fc.Arbitrary<EditBody>> = {
  'add-part': fc.record({ n: fc.nat(5), part: one(PARTS) }).map(({ n, part }) => addPart(`new${n}`, part)),
  'remove-part': one(partIds).map((partId) => ({ kind: 'remove-part', partId })),
  'rename-part': fc.record({ partId: one(partIds), label: word }).map((r) => ({ kind: 'rename-part', ...r })),
  'set-part': fc.oneof(
    {
      weight: 1,
      arbitrary: fc
        .integer({ min: -20, max: 50 })
        .map((value): EditBody => ({ kind: 'set-part', partId: 'ranger', setting: 'airC', value })),
    },
    {
      weight: 3,
      arbitrary: fc
        .record({
          partId: one(partIds),
          setting: one(['airC', 'load', 'none']),
          value: fc.oneof(fc.integer({ min: -40, max: 80 }), one(['pump', 'nothing yet', 'x'])),
        })
        .map((r): EditBody => ({ kind: 'set-part', ...r })),
    },
  ),
  feed: fc
    .oneof(
      fc.constant({ partId: 'ranger', terminal: 'vcc', rail: '5V' }),
      fc.record({ partId: one(partIds), terminal: one(['vcc', 'jd', 'vdd', 'gnd']), rail: one(['5V', '3V3', '12V']) }),
    )
    .map((r) => ({ kind: 'feed', ...r })),
  'add-signal': fc
    .record({
      of: fc.oneof(
        one([
          ['ranger', 'distance'],
          ['button', 'press'],
        ] as const),
        fc.tuple(one(partIds), one(['distance', 'switch', 'press', 'temperature'])),
      ),
      n: fc.nat(4),
    })
    .map(({ of: [partId, channel], n }) => ({ kind: 'add-signal', partId, signal: { id: `sn${n}`, channel } })),
  'make-state': fc
    .record({
      of: one(signals),
      cut: fc.integer({ min: -3, max: 3 }),
      words: one([
        ['low', 'high'],
        ['low', 'middle', 'high'],
      ] as const),
    })
    .map(({ of, cut, words }) => ({
      kind: 'make-state',
      signalId: 'smade',
      of,
      levels: {
        words: [...words],
        cuts: words.slice(1).map((_, i) => cut + i),
        band: 0.1,
        holdS: words.map(() => 0),
        unknown: null,
        on: 1,
      },
    })),
  'remove-signal': one(signals).map((signalId) => ({ kind: 'remove-signal', signalId })),
  'rename-signal': fc
    .record({ signalId: one(signals), name: word, slug: fc.oneof(word, one(['level', 'status', 'set'])) })
    .map((r) => ({ kind: 'rename-signal', ...r })),
  condition: fc
    .record({
      signalId: one(signals),
      set: fc.record(
        {
          median: one([1, 3, 5, 7, 9] as const),
          averageS: fc.nat(100),
          mountM: fc.option(fc.double({ min: 0, max: 5, noNaN: true })),
          patterns: one([['single'], ['single', 'double']] as const).map((p) => [...p]),
          atStart: one(['off', 'on', 'last', 'follow'] as const),
          pulseS: fc.nat(5),
        },
        { requiredKeys: [] },
      ),
    })
    .map((r) => ({ kind: 'condition', ...r })),
  publish: fc
    .record({
      signalId: one(signals),
      set: fc.record(
        {
          entity: fc.boolean(),
          intervalS: fc.nat(1000),
          decimals: fc.nat(6),
          unit: one(['mm', 'cm', 'm', '°C', 'kg']),
          role: one(['main', 'diagnostic'] as const),
        },
        { requiredKeys: [] },
      ),
    })
    .map((r) => ({ kind: 'publish', ...r })),
  calibrate: fc
    .record({
      signalId: one(signals),
      gain: fc.double({ min: 0.5, max: 2, noNaN: true }),
      curve: one([
        null,
        { kind: 'exponential' as const, at: 1, a: 0.4, b: -0.2 },
        { kind: 'table' as const, x: [0, 2], y: [1, 3], slope: [1, 1] },
      ]),
      none: fc.boolean(),
    })
    .map(({ signalId, gain, curve, none }) => ({
      kind: 'calibrate',
      signalId,
      calibration: none
        ? null
        : {
            recordId: record,
            ...(curve === null ? { gain, offset: 0.003 } : { gain: 1, offset: 0 }),
            curve,
            span: curve === null ? null : { min: 0.1, max: 1.5 },
            date: '2026-11-24',
            points: 2,
            expires: curve === null ? null : '2028-11-24',
          },
    })),
  'choose-board': one(['board-32-30', 'board-8266-16', 'board-none']).map((board) => ({ kind: 'choose-board', board })),
  identify: fc
    .record({ name: word, slug: word, place: one([null, 'clayyard', 'loft']) })
    .map((r) => ({ kind: 'identify', ...r })),
  'copy-part': fc.record({ partId: one(partIds), n: fc.nat(3) }).map(({ partId, n }) => ({
    kind: 'copy-part',
    partId,
    newId: `copy${n}`,
    label: `Copy ${n}`,
    signals: [{ id: `sc${n}`, channel: partId === 'ranger' ? 'distance' : 'press' }],
  })),
  gather: fc
    .record({
      partIds: fc.oneof(
        fc.constant<string[]>(['new0', 'new1']),
        fc.uniqueArray(one(partIds), { minLength: 2, maxLength: 3 }),
      ),
      part: one(['keys-matrix-3x4', 'keys-ladder-5', 'button-ground', 'none']),
    })
    .map((r) => ({ kind: 'gather', ...r, partId: 'pad', label: 'Pad' })),
  'set-bus': fc
    .record({ partId: one(partIds), bus: one(['a', 'own', 'b', 'ranger:1', null] as const) })
    .map((r) => ({ kind: 'set-bus', ...r })),
  'set-measured': fc
    .record({ input: one(['asleepA', 'joinS']), value: one([0.0001, 2]), drop: fc.boolean() })
    .map(({ input, value, drop }) => ({
      kind: 'set-measured',
      input,
      measured: drop ? null : { value, date: '2026-11-20', by: 'KY' },
    })),
  sleep: one([null, 10, 600]).map((everyS) => ({ kind: 'sleep', everyS })),
  'set-rule': fc.oneof(
    fc
      .record({
        ruleId: one(['r1', 'r2']),
        when: one(['single', 'double'] as const),
        do: one([true, false, 'toggle'] as const),
      })
      .map(({ ruleId, ...r }): EditBody => ({
        kind: 'set-rule',
        ruleId,
        rule: { from: 'spress', forS: 0, to: 'spump', works: 'always', ...r },
      })),
    fc
      .record({
        ruleId: one(['r1', 'r2']),
        rule: fc.option(
          fc.record({
            from: one([...signals, 'air:door/door']),
            when: one([
              { says: 'up' },
              'single',
              'double',
              'left',
              true,
              null,
              'gone',
              { above: 0.5 },
              { below: 2, band: 0.1 },
            ] as const),
            forS: one([0, 0, 30]),
            to: one(signals),
            do: one([true, false, 'toggle', 40] as const),
            works: one(['always', 'alone', 'detached'] as const),
          }),
          { freq: 4 },
        ),
      })
      .map((r): EditBody => ({ kind: 'set-rule', ...r })),
  ),
  'set-guard': fc
    .record({
      guardId: one(['g1', 'g2']),
      guard: fc.oneof(
        fc.constant(null),
        fc.uniqueArray(one(signals), { minLength: 2, maxLength: 3 }).map((of) => ({ kind: 'exclusive' as const, of })),
        fc
          .record({ output: one(signals), input: one(signals), is: fc.boolean() })
          .map((g) => ({ kind: 'needs' as const, ...g })),
      ),
    })
    .map((r) => ({ kind: 'set-guard', ...r })),
  'set-group': fc
    .record({
      groupId: one(['e1', 'e2']),
      group: fc.option(
        fc.record({
          kind: one(['door', 'tank', 'switch', 'climate'] as const),
          name: one(['Front door', 'Slip tank']),
          roles: fc.oneof(
            one<Record<string, string>>([
              { level: 'slevel', fill: 'spump' },
              { level: 'slevel', temperature: 'swater' },
            ]),
            fc.dictionary(one(['open', 'level', 'fill', 'temperature', 'switch', 'full']), one(signals), {
              maxKeys: 3,
            }),
          ),
        }),
        { freq: 4 },
      ),
    })
    .map((r) => ({ kind: 'set-group', ...r })),
  connect: fc
    .record({
      ref: one(['house', 'shed']),
      address: one(['name', 'lease', 'fixed'] as const),
      fixed: one([null, { ip: '192.168.1.20', mask: '255.255.255.0', gateway: '192.168.1.1', dns: '192.168.1.1' }]),
      keepAliveS: fc.integer({ min: 2, max: 60 }),
      quiet: fc.boolean(),
    })
    .map((r) => ({ kind: 'connect', ...r })),
  'set-cost': fc
    .record({ item: one(['button-ground', 'board-32-30', 'none']), cost: fc.option(fc.nat(100)) })
    .map((r) => ({ kind: 'set-cost', ...r })),
  lock: fc.record({ line: one(lines), pin: one(pins) }).map((r) => ({ kind: 'lock', ...r })),
  unlock: one(lines).map((line) => ({ kind: 'unlock', line })),
  'keep-free': fc.record({ pin: one(pins), free: fc.boolean() }).map((r) => ({ kind: 'keep-free', ...r })),
  'accept-plan': fc
    .dictionary(one(lines), one(pins), { maxKeys: 1 })
    .map((p) => ({ kind: 'accept-plan', pins: { ...slipTank().plan.pins, ...p } })),
  'add-component': fc
    .record({ line: one(lines), divider: fc.boolean(), ohm: fc.integer({ min: 1000, max: 9000 }) })
    .map(({ line, divider, ohm }) => ({
      kind: 'add-component',
      componentId: `c${ohm % 3}`,
      component: divider
        ? { type: 'divider', line, names: ['R1', 'R2'], topOhm: ohm, bottomOhm: ohm, tolerance: 0.01 }
        : { type: 'pull', line, names: ['R9'], level: 'high', ohm, tolerance: 0.05 },
    })),
  'remove-component': one(['puprobedata', 'puprobedata', 'puprobedata', 'c0', 'c1', 'c2']).map((componentId) => ({
    kind: 'remove-component',
    componentId,
  })),
  'mark-wire': fc
    .record({ wire: one([...Object.keys(slipTank().wires), 'no|wire']), made: fc.boolean() })
    .map((r) => ({ kind: 'mark-wire', ...r })),
  'set-wire': fc
    .record({
      wire: one([...Object.keys(slipTank().wires), 'no|wire']),
      set: fc.record({ insulation: one(['red', 'grey']), gaugeMm2: one([0.22, 0.5]) }, { requiredKeys: [] }),
    })
    .map((r) => ({ kind: 'set-wire', ...r })),
  'place-part': fc
    .record({
      partId: one(partIds),
      set: fc.record({ cableM: one([0.3, 12, 100]), outdoor: fc.boolean() }, { requiredKeys: [] }),
    })
    .map((r) => ({ kind: 'place-part', ...r })),
  'record-found': fc
    .record({
      partId: one(partIds),
      found: fc.option(fc.record({ terminal: word, supply: word, common: word, signal: word, note: word })),
    })
    .map((r) => ({ kind: 'record-found', ...r })),
  'feed-board': one([null, '5V', 'new0.out', 'none.out']).map((rail) => ({ kind: 'feed-board', rail })),
  'made-otherwise': fc.record({ line: one(lines), pin: one(pins) }).map((r) => ({ kind: 'made-otherwise', ...r })),
  revert: fc.constant({ kind: 'revert', of: 'nothing', changes: [{ path: ['name'], before: 'no', after: 'yes' }] }),
}
