import { describe, expect, test } from 'vitest'
import { readPairs } from '../../src/core/calibration/readPairs'
import { senmlRecords } from '../../src/core/senml/records'

/** Example of RFC 8428, 5.1.2: a base time far back, records before and at it. */
const RFC = `[
  {"bn":"urn:dev:ow:10e2073a0108006:","bt":1.276020076001e+09,"bu":"A","bver":5,"n":"voltage","u":"V","v":120.1},
  {"n":"current","t":-5,"v":1.2},
  {"n":"current","t":-4,"v":1.3},
  {"n":"current","v":1.7}
]`

describe('a pack', () => {
  test('as the standard resolves its own example (RFC 8428, 5.1.2 and 5.1.4)', () => {
    const read = senmlRecords(RFC)
    const at = 1.276020076001e9
    const name = (n: string) => `urn:dev:ow:10e2073a0108006:${n}`
    expect(read).toEqual({
      kind: 'records',
      records: [
        { name: name('voltage'), t: at, v: 120.1 },
        { name: name('current'), t: at - 5, v: 1.2 },
        { name: name('current'), t: at - 4, v: 1.3 },
        { name: name('current'), t: at, v: 1.7 },
      ],
    })
  })
  test('a base value is added (4.2)', () => {
    expect(senmlRecords('[{"bn":"a","bv":20,"v":1},{"v":2},{"bv":0,"v":3}]')).toMatchObject({
      records: [{ v: 21 }, { v: 22 }, { v: 3 }],
    })
  })
})

describe('pairs', () => {
  test('raw and reference of the same moment, an uncertainty where one is stated', () => {
    const pack = JSON.stringify([
      { bn: 'tank/', bt: 1_700_000_000, n: 'raw', v: 101 },
      { n: 'reference', v: 100 },
      { n: 'raw', t: 60, v: 205 },
      { n: 'reference', t: 60, v: 200 },
      { n: 'uncertainty', t: 60, v: 0.5 },
    ])
    expect(readPairs(pack)).toEqual({
      kind: 'pairs',
      pairs: [
        { raw: 101, reference: 100 },
        { raw: 205, reference: 200, u: 0.5 },
      ],
    })
  })
  test.each([
    ['[{"n":"raw","v":1}]', /reference is missing/],
    ['[{"n":"level","v":1}]', /neither raw nor reference/],
    ['[{"n":"raw","v":1},{"n":"raw","v":2}]', /two of raw/],
    ['[{"n":"raw"', /not JSON/],
    ['[]', /no pair/],
  ])('%s is refused', (text, why) => {
    const read = readPairs(text)
    expect(read.kind === 'none' && read.reason).toMatch(why)
  })
})
