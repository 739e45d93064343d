import { expect, test } from 'vitest'
import { rulesInOrder, sameOnOthers } from '../../src/core/edits/sameOnOthers'
import type { EditBody } from '../../src/core/edits/edit'
import { ruleWords } from '../../src/core/nodefile/semanticDiff'
import { after, blank, catalog } from '../support/designs'

const keys = (n: number): EditBody[] =>
  Array.from({ length: n }, (_, i) => ({
    kind: 'add-part',
    partId: `key${i}`,
    part: 'button-ground',
    label: `Key ${i}`,
    signals: [{ id: `s${i}`, channel: 'press' }],
  }))

test('short and long on one key are on twenty more by one gesture, and on nothing of another kind', () => {
  const design = after(
    blank(),
    ...keys(21),
    { kind: 'add-part', partId: 'door', part: 'contact-reed', label: 'Door', signals: [{ id: 'sd', channel: 'open' }] },
    { kind: 'condition', signalId: 's0', set: { patterns: ['single', 'long'], longMs: 700 } },
  )
  const edits = sameOnOthers(design, catalog, 's0')
  const all = after(design, ...edits)
  for (let i = 0; i < 21; i++)
    expect(all.signals[`s${i}`]?.conditioning).toMatchObject({ patterns: ['single', 'long'], longMs: 700 })
  expect(all.signals.sd).toEqual(design.signals.sd)
  expect(edits).toHaveLength(20)
  expect(sameOnOthers(all, catalog, 's0')).toEqual([])
})

test('a mounting height and a calibration stay with their own', () => {
  const ranger = (id: string): EditBody => ({
    kind: 'add-part',
    partId: `r${id}`,
    part: 'ranger-echo',
    label: id,
    signals: [{ id: `s${id}`, channel: 'distance' }],
  })
  const design = after(blank(), ranger('a'), ranger('b'), {
    kind: 'condition',
    signalId: 'sa',
    set: { mountM: 1.2, median: 9 },
  })
  const { conditioning } = after(design, ...sameOnOthers(design, catalog, 'sa')).signals.sb ?? {}
  expect(conditioning).toMatchObject({ mountM: null, median: 9 })
})

test('rules stand by what they wait for, whatever their ids, and levels are said in the unit of the display', () => {
  const rule = (ruleId: string, from: string): EditBody => ({
    kind: 'set-rule',
    ruleId,
    rule: { from, when: 'single', forS: 0, to: 'sl', do: 'toggle', works: 'always' },
  })
  const lamp: EditBody = {
    kind: 'add-part',
    partId: 'lamp',
    part: 'led-pwm',
    label: 'L',
    signals: [{ id: 'sl', channel: 'light' }],
  }
  const of = (...ids: [string, string][]) =>
    rulesInOrder(after(blank(), ...keys(3), lamp, ...ids.map(([id, from]) => rule(id, from)))).map((r) => r.value.from)
  expect(of(['zz', 's0'], ['aa', 's2'], ['mm', 's1'])).toEqual(['s0', 's1', 's2'])
  expect(of(['aa', 's2'], ['bb', 's1'], ['cc', 's0'])).toEqual(['s0', 's1', 's2'])
  const words = ruleWords({ from: 'level', when: { above: 0.35 }, to: 'pump', do: false }, { factor: 1000, unit: 'mm' })
  expect(words).toBe('level above 350 mm → pump off')
})
