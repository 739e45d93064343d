import { expect, test } from 'vitest'
import { seeded } from '../support/chance'
import { codesInCore, codesOnBoard, damagedTrains } from '../support/codesOnBoard'

// The board’s decoder against the core’s, on frames most of which are damaged.
test('10 000 random and damaged frames: board and core make the same of each, and the board asks for no memory', async () => {
  const onBoard = await codesOnBoard()
  const random = seeded(20)
  let [frames, bursts] = [0, 0]
  while (frames < 10_000) {
    const job = damagedTrains(random, 250)
    const core = codesInCore(job.families, job.frames)
    expect(onBoard(job.families, job.frames)).toEqual(core)
    frames += job.frames.length
    bursts += core.flat().filter((c) => c !== null).length
  }
  // Enough of both for the comparison to mean something.
  expect(bursts).toBeGreaterThan(300)
  expect(bursts).toBeLessThan(frames / 4)
}, 120_000)
