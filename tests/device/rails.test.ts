import fs from 'node:fs'
import path from 'node:path'
import { expect, test } from 'vitest'
import { nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { after, blank } from '../support/designs'
import { feed, part } from '../support/editBodies'
import { modelledBoard, planned } from '../support/modelledBoard'

// A rail of its own for a probe: on before the probe is asked, off while the node sleeps.
const design = planned(
  after(
    blank('board-32-30'),
    part('soil', 'soil-analog', 'moisture'),
    part('sw', 'rail-switch'),
    feed('sw', 'vin', '3V3'),
    feed('soil', 'vcc', 'sw.out'),
    { kind: 'sleep', everyS: 900, listenS: 1 },
  ),
)

test('the pin of a switched rail is high from the start of the program, and not while it sleeps', async () => {
  const b = await modelledBoard(design)
  const { rails } = nodeFileSchema.parse(JSON.parse(fs.readFileSync(path.join(b.flashDir, 'node.json'), 'utf8')))
  const pin = rails?.[0]?.pin ?? -1
  expect(pin).toBeGreaterThanOrEqual(0)
  const moisture = () => b.heard(design.signals.ssoil?.slug ?? '').length
  b.until(() => moisture() > 0, 30_000)
  expect(b.board.driven(pin)).toBe(1)
  b.until(() => b.board.asleep, 60_000)
  expect(b.board.driven(pin)).toBe(0)
  b.until(() => !b.board.asleep, 950_000, 1000)
  b.until(() => b.board.driven(pin) === 1, 20_000)
})
