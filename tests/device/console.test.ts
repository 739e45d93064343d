import fs from 'node:fs'
import path from 'node:path'
import { expect, test } from 'vitest'
import { readStartup } from '../../src/core/startup/readStartup'
import { after, blank } from '../support/designs'
import { part } from '../support/editBodies'
import { modelledBoard, planned } from '../support/modelledBoard'

const design = planned(after(blank('board-32-30'), part('soil', 'soil-analog', 'moisture')))
const connect = { kind: 'connect', ref: 'house', address: 'lease', fixed: null, keepAliveS: 10 } as const

test('the runtime says how far it has come, with nothing secret in it; told to be quiet it says nothing', async () => {
  const b = await modelledBoard(design)
  b.until(() => b.heard('health').length > 0, 30_000)
  const said = b.lines()
  expect(readStartup(said, { chip: '32-class' })).toMatchObject({
    head: {
      kind: 'fine',
      text: expect.stringMatching(
        /^It runs: in the network, −\d+ dBm, the broker has let it in, first readings of \S+\.$/,
      ),
    },
    facts: { node: design.slug, revision: 1, wifi: 'up', broker: 0, address: '192.0.2.20', hardware: '020000000001' },
  })
  expect(said).not.toMatch(/password|00{20}/)
  b.write(after(design, { ...connect, quiet: true }))
  const file = fs.readFileSync(path.join(b.flashDir, 'node.json'), 'utf8')
  b.ask(`with open('node.json', 'w') as f: f.write(${JSON.stringify(file)})`)
  b.forget()
  b.board.power()
  const before = b.heard('health').length
  b.until(() => b.heard('health').length > before, 30_000)
  expect(
    b
      .lines()
      .split('\n')
      .filter((l) => /^vn (file|drivers|mac|net|broker|first)/.test(l)),
  ).toEqual([])
})
