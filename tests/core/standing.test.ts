import { expect, test } from 'vitest'
import { installSteps } from '../../src/core/bundle/installSteps'
import { runChecks } from '../../src/core/checks/runChecks'
import { standingAgainst, stopSentences } from '../../src/core/checks/standing'
import type { EditBody } from '../../src/core/edits/edit'
import { after, blank, catalog, slipTank } from '../support/designs'

const standing = (design = slipTank(), signed: string[] = []) =>
  standingAgainst(design, catalog, runChecks(design, catalog), new Set(signed))
const add = (part: string): EditBody => ({ kind: 'add-part', partId: 'it', part, label: 'It', signals: [] })
const load = (value: string): EditBody => ({ kind: 'set-part', partId: 'it', setting: 'load', value })

test('a name under a caution lets it go; other stops stay until somebody goes on', () => {
  const all = standing()
  const keys = all.barred.map((f) => f.key)
  expect(keys.length).toBeGreaterThan(0)
  const signed = standing(slipTank(), keys)
  expect(signed.barred).toEqual([])
  expect(signed.stops.map((f) => f.rule)).toContain('input-over-maximum')
  expect(signed.stops.every((f) => !keys.includes(f.key))).toBe(true)
})

test.each([
  ['pump', true],
  ['mains-load', true],
  ['heater', true],
  ['gate-or-door', true],
  ['contactor-with-a-mains-load', true],
  ['valve-up-to-24-v', true],
  ['siren', false],
  ['lamp-up-to-24-v', false],
])('a relay that switches “%s” is bundled only with a name under its caution: %s', (value, barred) => {
  const design = after(blank(), add('relay-module-low'), load(value))
  expect(standing(design).barred.length > 0).toBe(barred)
})

test('a cell’s caution is a stop one may go past; what somebody went on past is the first of the steps', () => {
  const design = after(blank(), add('cell-18650'))
  const { stops, barred } = standing(design)
  expect(stops.some((f) => f.caution !== null)).toBe(true)
  expect(barred).toEqual([])
  const board = catalog.boards[design.board.id]
  if (!board) throw new Error('no board')
  const past = { by: 'bench hand', stops: stopSentences(stops) }
  const [first] = installSteps(design, board, catalog, { name: 'x.zip', withPasswords: false, past })
  expect(first).toMatchObject({ caution: true, text: expect.stringMatching(/bench hand went on all the same/) })
  for (const s of past.stops) expect(first?.text).toContain(s)
})
