import fs from 'node:fs'
import path from 'node:path'
import { expect, test } from 'vitest'
import { inService } from '../../src/core/energy/inService'
import { spread } from '../../src/core/energy/spread'
import { designSchema } from '../../src/core/model/design'
import { daysOnCell } from '../../standins/board/cellDays'
import { tempFolder } from '../support/product'

// A cell that empties by what the board does, at currents and times nobody has told the forecast.
test.each([3])(
  'the drain and the day are found within their ranges from thirty days of a sleeping node (draw %i)',
  async (seed) => {
    let a = seed
    const random = () => {
      a = (Math.imul(a, 1_664_525) + 1_013_904_223) >>> 0
      return a / 2 ** 32
    }
    const read = designSchema.parse(JSON.parse(fs.readFileSync('demo/designs/damp-cupboard.json', 'utf8')))
    const design = { ...read, sleep: { everyS: 4 * 3600, listenS: 1 } }
    const flashDir = path.join(tempFolder(), 'flash')
    fs.mkdirSync(flashDir)
    // Between a third and two thirds the curve of lithium is neither steep nor flat.
    const run = await daysOnCell(design, { days: 30, flashDir, deviceDir: 'device', random, left: 0.9 })
    expect(run.wakings).toBeGreaterThan(150)
    expect(run.points.length).toBeGreaterThan(150)
    const found = inService(run.points, run.cycle)
    if (!found) throw new Error('nothing was found')
    expect(Math.abs(found.drainA - run.trueA)).toBeLessThanOrEqual(found.errorA)
    expect(found.errorA).toBeLessThan(run.trueA / 2)
    expect(found.emptyS?.from).toBeLessThan(run.trueEndS)
    expect(found.emptyS?.to).toBeGreaterThan(run.trueEndS)
    // Two resistors that were compared with a meter leave the charge of the cell as the largest doubt.
    const compared = inService(run.points, run.cycle, spread(0.999, 1, 1.001))
    expect(Math.abs((compared?.drainA ?? 0) - run.trueA)).toBeLessThanOrEqual(compared?.errorA ?? 0)
    expect(compared?.errorA).toBeLessThan(run.trueA / 8)
  },
  300_000,
)
