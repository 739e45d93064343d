import { describe, expect, test } from 'vitest'
import { checkContext } from '../../src/core/checks/context'
import { calculationsOf } from '../../src/core/checks/calculationsOf'
import { runChecks } from '../../src/core/checks/runChecks'
import { searchParts } from '../../src/core/catalog/searchParts'
import type { EditBody } from '../../src/core/edits/edit'
import { wishedEdits, wishedName } from '../../src/core/edits/wished'
import { after, blank, catalog } from '../support/designs'

const add = (part: string, signals: { id: string; channel: string }[] = [], partId = 'it') => ({
  kind: 'add-part' as const,
  partId,
  part,
  label: 'It',
  signals,
})
const asked = (part: string, channel: string, wish: string) => {
  const kind = catalog.parts[part]
  if (!kind) throw new Error(part)
  const body = add(part, [{ id: 's1', channel }])
  return after(blank(), body, ...wishedEdits(kind, body, wish))
}
const load = (value: string): EditBody => ({ kind: 'set-part', partId: 'it', setting: 'load', value })

describe('a part comes as it was asked for', () => {
  test('a ranger is no tank unless a level was asked for', () => {
    const channel = catalog.parts['ranger-echo']?.channels[0]
    if (!channel) throw new Error('no channel')
    for (const [wish, mountM, name] of [
      ['distance', null, 'distance'],
      ['somebody near', null, 'distance'],
      ['how full is the tank', 1, 'level'],
      ['Levels', 1, 'level'],
    ] as const) {
      expect(asked('ranger-echo', 'distance', wish).signals.s1?.conditioning.mountM, wish).toBe(mountM)
      expect(wishedName(channel, wish)).toBe(name)
    }
  })

  test('a relay switches nothing unless it was said what', () => {
    expect(asked('relay-module-low', 'switch', 'relay').parts.it?.settings.load).toBe('nothing-yet')
    expect(asked('relay-module-low', 'switch', 'pumps').parts.it?.settings.load).toBe('pump')
    expect(asked('relay-module-low', 'switch', 'siren').parts.it?.settings.load).toBe('siren')
    // Words without a meaning for the load, and such as fit two loads, decide nothing.
    for (const wish of ['one relay', 'relay up to 24 V', 'door', 'mains'])
      expect(asked('relay-module-low', 'switch', wish).parts.it?.settings.load, wish).toBe('nothing-yet')
  })

  test('another load takes its longest time and its pulse along, and leaves what somebody set', () => {
    const start = after(blank(), add('relay-module-low', [{ id: 's1', channel: 'switch' }]))
    const at = (...edits: EditBody[]) => {
      const { longestOnS, pulseS } = after(start, ...edits).signals.s1?.conditioning ?? {}
      return [longestOnS, pulseS]
    }
    expect(at(load('pump'))).toEqual([90, 0])
    expect(at(load('siren'))).toEqual([180, 0])
    expect(at(load('door-strike'))).toEqual([10, 0])
    expect(at(load('lamp-up-to-24-v'))).toEqual([0, 0])
    expect(at(load('gate-or-door'))).toEqual([90, 1])
    expect(at(load('gate-or-door'), load('lamp-up-to-24-v'))).toEqual([0, 0])
    expect(at({ kind: 'condition', signalId: 's1', set: { longestOnS: 45 } }, load('siren'))).toEqual([45, 0])
  })
})

test.each([
  ['step-down', 'converter-12-5'],
  ['step down', 'converter-12-5'],
  ['buck', 'converter-40-5'],
  ['step-up', 'boost-5v'],
  ['pumps', 'relay-module-low'],
  ['batteries', null],
  ['thermometers', 'thermometer-one-wire'],
  ['thermo', 'thermometer-one-wire'],
  ['mometer', null],
  ['elay', null],
])('“%s” finds %s', (wish, id) => {
  const found = searchParts(catalog, wish).map((k) => k.id)
  if (id === null) expect(found).not.toContain('thermometer-one-wire')
  else expect(found).toContain(id)
})

describe('a cell', () => {
  test('that feeds nothing is said, and its remedy ends that', () => {
    const design = after(blank(), add('cell-18650', [], 'cell'))
    const said = runChecks(design, catalog).find((f) => f.rule === 'cell-feeds-nothing')
    expect(said?.sentence).toMatch(/feeds nothing: the board still hangs on USB/)
    const fed = after(design, ...(said?.remedies[0]?.edits ?? []))
    expect(fed.boardFeed).toBe('cell.p')
    expect(runChecks(fed, catalog).some((f) => f.rule === 'cell-feeds-nothing')).toBe(false)
  })

  test('lasts by its mean over sleeping and waking, on paper', () => {
    const fed = after(blank(), add('cell-18650', [], 'cell'), { kind: 'feed-board', rail: 'cell.p' })
    const meanOf = (design: typeof fed) => {
      const context = checkContext(design, catalog)
      return context && calculationsOf(context).find((c) => c.id === 'cell')?.given.meanA
    }
    const board = catalog.boards[fed.board.id]
    if (!board) throw new Error('no board')
    // Linear regulator: what the board takes is what the cell gives. 0.65 s of start at 45 mA, 3.4 s to join at 150 mA, 10 s
    // of listening at 90 mA, 0.15 s back at 150 mA, and asleep at 5 mA for the rest of 600 s.
    const slept = after(fed, { kind: 'sleep', everyS: 600, listenS: 10 })
    const awake = 0.65 * 0.045 + 3.4 * 0.15 + 10 * 0.09 + 0.15 * 0.15
    const paper = (awake + 0.005 * (600 - 14.2)) / 600
    expect(meanOf(slept)).toBeCloseTo(paper, 9)
    expect(meanOf(fed)).toBeCloseTo(board.currents.activeA, 9)
  })
})
