import { afterAll, expect, test } from 'vitest'
import { allBoards, seenBoard } from '../../src/server/db/bringUpRows'
import { lastMeasurements, latestLog } from '../../src/server/db/logbookRows'
import type { NodeLive } from '../../src/wire/protocol'
import { SLIP_TANK, startProduct, tempFolder } from '../support/product'

const folder = tempFolder()
let product = await startProduct(folder)
afterAll(() => product.stop())
const told = async () => (await latestLog(product.db, SLIP_TANK, 50)).map((l) => `${l.who}: ${l.what}`)

test('a step behind a caution opens only once somebody has put a name to it; what was found is kept with who and remark', async () => {
  const key = 'load:spump'
  const found = { key, value: null, ok: true, who: 'bench', remark: 'runs' }
  expect(await product.bringUp.record(SLIP_TANK, found)).toMatchObject({ ok: false, status: 409 })
  expect(await product.bringUp.confirm(SLIP_TANK, key, 'bench')).toMatchObject({ ok: true })
  expect(await product.bringUp.record(SLIP_TANK, found)).toMatchObject({ ok: true, verdict: { ok: true } })
  // The verdict on a number is made here, whatever the page says of it.
  expect(await product.bringUp.record(SLIP_TANK, { ...found, key: 'current', value: 3, ok: true })).toMatchObject({
    ok: true,
    verdict: { ok: false, side: 'high' },
  })
  expect(await product.bringUp.record(SLIP_TANK, { ...found, key: 'current', value: null })).toMatchObject({
    status: 422,
  })
  expect(await product.bringUp.record(SLIP_TANK, { ...found, key: 'ohm:nothing' })).toMatchObject({ status: 404 })
  expect(await told()).toEqual(
    expect.arrayContaining([
      expect.stringMatching(/^bench: confirmed before “pump, its load connected”/),
      expect.stringMatching(/^bench: bring-up, Current into the board, 5 V: 3\.00 A, not as it should be/),
    ]),
  )
  // What the wiring measured before is among it, and it sees only its own kind.
  await product.bringUp.record(SLIP_TANK, { ...found, key: 'volt:5V', value: 4.9 })
  expect((await lastMeasurements(product.db, SLIP_TANK)).map((m) => m.place)).toEqual(['volt:5V'])
})

test('a trial goes on over a restart, counts what happens, and ends with its verdict in the logbook', async () => {
  expect(await product.bringUp.startTrial(SLIP_TANK, 2, 'bench')).toMatchObject({ ok: true })
  expect(await product.bringUp.startTrial(SLIP_TANK, 2, 'bench')).toMatchObject({ status: 409 })
  const live = product.workshop.get(SLIP_TANK)?.live as NodeLive
  const health = (uptimeS: number, restart: string) =>
    product.stream.emit({
      kind: 'live',
      node: SLIP_TANK,
      live: {
        ...live,
        status: { is: 'online' },
        health: { dbm: -62, uptimeS, freeB: null, supplyV: null, restart, revision: 1 },
      },
    })
  health(500, 'power')
  health(3, 'watchdog')
  await product.stop()
  product = await startProduct(folder)
  const trial = await product.bringUp.trial(SLIP_TANK)
  expect(trial).toMatchObject({ endedAt: null, ok: false, days: 2 })
  expect(trial?.lines.map((l) => l.words)).toContain('1 restart nobody asked for: watchdog.')
  expect(await product.bringUp.endTrial(SLIP_TANK, 'bench')).toMatchObject({ ok: true })
  expect(await product.bringUp.endTrial(SLIP_TANK, 'bench')).toMatchObject({ status: 409 })
  expect(await told()).toEqual(expect.arrayContaining([expect.stringMatching(/^bench: trial ended: .*watchdog/)]))
  const kept = (await product.bringUp.found(SLIP_TANK)).find((f) => f.place === 'trial')
  expect(kept).toMatchObject({ ok: false, who: 'bench' })
})

test('a node has one board: another in its place makes the first a spare one; what is not read this time stays', async () => {
  const seen = { chip: '32-class', image: 'a'.repeat(64), imageVersion: '1.25.0', address: null }
  await seenBoard(product.db, { ...seen, hardware: '0200000000a1', node: SLIP_TANK })
  await seenBoard(product.db, { ...seen, hardware: '0200000000b2', node: null })
  await seenBoard(product.db, {
    ...seen,
    hardware: '0200000000b2',
    node: SLIP_TANK,
    image: null,
    address: '192.0.2.31',
  })
  const boards = Object.fromEntries((await allBoards(product.db)).map((b) => [b.hardware, b]))
  expect(boards['0200000000a1']?.node_id).toBeNull()
  expect(boards['0200000000b2']).toMatchObject({ node_id: SLIP_TANK, image: seen.image, address: '192.0.2.31' })
  await expect(seenBoard(product.db, { ...seen, hardware: 'typed', node: null })).rejects.toThrow()
})
