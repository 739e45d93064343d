import { randomUUID } from 'node:crypto'
import { afterEach, expect, test } from 'vitest'
import { MOST_SAMPLES, type Trace } from '../../src/core/trace/trace'
import type { Product } from '../../src/server/product'
import { changeTrace, dropTrace, keepTrace, traceOf, tracesOf } from '../../src/server/db/traceRows'
import { demoNodes, SLIP_TANK, startProduct, tempFolder } from '../support/product'

demoNodes.only = ['slip-tank']
const running: Product[] = []
afterEach(async () => {
  for (const p of running.splice(0)) await p.stop()
})

const traceWith = (n: number): Trace => ({
  name: 'an afternoon',
  at: '2026-11-24T14:00:00.000Z',
  unit: 'm',
  source: 'close',
  s: Array.from({ length: n }, (_, i) => i / 20),
  value: Array.from({ length: n }, (_, i) => (i % 97 === 5 ? null : Math.sin(i / 50) + 1 / 3)),
  marks: [{ from: 1, to: 2.5, word: 'filled' }],
})

test('a trace is there after a restart to the last bit, is marked and named anew, and goes with a word', async () => {
  const folder = tempFolder()
  const first = await startProduct(folder)
  running.push(first)
  const id = randomUUID()
  const trace = traceWith(100_000)
  await keepTrace(first.db, SLIP_TANK, 'slevel', id, trace)
  await running.pop()?.stop()
  const { db } = await startProduct(folder).then((p) => (running.push(p), p))
  expect(await tracesOf(db, SLIP_TANK)).toMatchObject([{ id, signal_id: 'slevel', n: 100_000, name: 'an afternoon' }])
  expect(await traceOf(db, SLIP_TANK, id)).toEqual({ ...trace, signal: 'slevel' })
  await changeTrace(db, SLIP_TANK, id, { marks: [] })
  await changeTrace(db, SLIP_TANK, id, { name: 'the same' })
  expect(await traceOf(db, SLIP_TANK, id)).toMatchObject({ name: 'the same', marks: [], value: trace.value })
  // Another node's are not to be had, nor dropped.
  expect(await traceOf(db, randomUUID(), id)).toBeNull()
  await dropTrace(db, randomUUID(), id)
  expect(await tracesOf(db, SLIP_TANK)).toHaveLength(1)
  await dropTrace(db, SLIP_TANK, id)
  expect(await tracesOf(db, SLIP_TANK)).toEqual([])
})

test('a million samples are kept and come back', async () => {
  const { db } = await startProduct().then((p) => (running.push(p), p))
  const id = randomUUID()
  const trace = traceWith(MOST_SAMPLES)
  await keepTrace(db, SLIP_TANK, 'slevel', id, trace)
  const back = await traceOf(db, SLIP_TANK, id)
  expect(back?.s.length).toBe(MOST_SAMPLES)
  expect(back?.value.at(-1)).toBe(trace.value.at(-1))
  expect(back?.value[5]).toBeNull()
})
