import { execFileSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { readDesign } from '../../src/core/model/readDesign'
import { nearestWord } from '../../src/core/documents/readDocument'
import { catalog, slipTank } from '../support/designs'
import { tempFolder } from '../support/product'

const good = fs.readFileSync('demo/designs/slip-tank.json', 'utf8')
const line = (text: string, needle: string) => text.slice(0, text.indexOf(needle)).split('\n').length

describe('a design file that is wrong', () => {
  const cases: [string, (t: string) => string, string, RegExp, string | null][] = [
    [
      'a part kind nobody has',
      (t) => t.replace('"ranger-echo"', '"ranger-eco"'),
      '"ranger-eco"',
      /a name of the catalogue/,
      'ranger-echo',
    ],
    [
      'a misspelt name',
      (t) => t.replace('"slug": "press"', '"slgu": "press"'),
      '"slgu"',
      /a name this format knows/,
      'slug',
    ],
    ['a number out of range', (t) => t.replace('"hue": 1', '"hue": 9'), '"hue": 9', /at most 7/, null],
    [
      'a word where a number belongs',
      (t) => t.replace('"median": 5', '"median": "five"'),
      '"median": "five"',
      /./,
      null,
    ],
    [
      'a channel the part does not have',
      (t) => t.replace('"channel": "switch"', '"channel": "swich"'),
      '"swich"',
      /switch/,
      'switch',
    ],
    [
      'a comma too many',
      (t) => t.replace('"keptFree": {}', '"keptFree": {},,'),
      '"keptFree": {},,',
      /name in double quotes|value/,
      null,
    ],
    ['a comment', (t) => t.replace('"locks"', '// why\n "locks"'), '// why', /no comments|name in double quotes/, null],
  ]
  test.each(cases)(
    '%s is told by line, found, expected and nearest word',
    (_name, spoil, needle, expected, nearest) => {
      const text = spoil(good)
      const read = readDesign(text, catalog)
      if (read.ok) throw new Error('was accepted')
      const problem = read.problems.find((p) => p.line === line(text, needle))
      expect(read.problems.map((p) => `${p.line}: ${p.expected}`).join('\n')).toMatch(expected)
      expect(problem).toBeDefined()
      if (nearest !== null) expect(read.problems.map((p) => p.nearest)).toContain(nearest)
    },
  )

  test('cut anywhere it is refused with a place inside it, and never throws', () => {
    fc.assert(
      fc.property(fc.nat(good.trimEnd().length - 1), (end) => {
        const read = readDesign(good.slice(0, end), catalog)
        if (read.ok) throw new Error('was accepted')
        for (const p of read.problems) expect(p.line).toBeLessThanOrEqual(good.slice(0, end).split('\n').length)
      }),
      { numRuns: 200 },
    )
  })

  test('anything at all is read or refused', () => {
    fc.assert(fc.property(fc.oneof(fc.string(), fc.json()), (text) => void readDesign(text, catalog)))
  })
})

describe('texts no editor would write', () => {
  const found = (text: string) => {
    const read = readDesign(text, catalog)
    return read.ok
      ? []
      : read.problems.map(
          (p) =>
            `${p.line}:${p.column} ${p.found}, expected ${p.expected}${p.nearest === null ? '' : ` (${p.nearest})`}`,
        )
  }
  test('nesting of 100 000, byte-order marks, zero bytes and doubled names get words and a place', () => {
    for (const deep of [
      '['.repeat(1e5),
      '{"a":'.repeat(1e5),
      `{"format": "vivid-node/design", "parts": ${'['.repeat(1e5)}`,
    ])
      expect(found(deep)).toEqual([
        expect.stringMatching(/brackets more than 64 deep, expected a document as it is exported/),
      ])
    expect(found(`\uFEFF${good}`)).toEqual([expect.stringMatching(/^1:1 a byte-order mark/)])
    expect(found(good.replace('"name"', '"na\u0000me"'))).toEqual([expect.stringMatching(/a zero byte, expected text/)])
    for (const bad of ['\\u0000', '\\ud83d', '\\ude00', '\\\\\\u0000'])
      expect(found(good.replace('"name": "slip-tank"', `"name": "x${bad}"`)), bad).toEqual([
        expect.stringMatching(/the escape .*, expected a character a text can keep/),
      ])
    for (const fine of ['\\ud83d\\ude00', '\\\\u0000'])
      expect(found(good.replace('"name": "slip-tank"', `"name": "x${fine}"`)), fine).toEqual([])
    const twice = good.replace('"slug": "slip-tank"', '"slug": "other", "slug": "slip-tank"')
    expect(found(twice)).toEqual([
      expect.stringMatching(
        new RegExp(`^${line(twice, '"slug": "other"')}:\\d+ the name “slug” a second time, expected each name once`),
      ),
    ])
    // Brackets inside texts are no brackets.
    expect(readDesign(good.replace('"name": "slip-tank"', `"name": "${'['.repeat(50)}"`), catalog).ok).toBe(
      good.includes('"name": "slip-tank"'),
    )
  })

  const part = slipTank().plan.pins
  const [lineA = '', lineB = ''] = Object.keys(part)
  const CONTRADICTIONS: [string, (t: string) => string, RegExp][] = [
    [
      'two lines on one pin',
      (t) => t.replace(`"${lineB}": "${part[lineB]}"`, `"${lineB}": "${part[lineA]}"`),
      new RegExp(`“${part[lineA]}”, which .* has already, expected each pin for one line`),
    ],
    [
      'a pin the board does not have',
      (t) => t.replace(`"${lineA}": "${part[lineA]}"`, `"${lineA}": "D99"`),
      /“D99”, expected a pin of this board/,
    ],
    [
      'a topic twice',
      (t) => t.replace('"slug": "press"', '"slug": "level"'),
      /“level”, which slevel has already, expected a topic of its own/,
    ],
    ['a tag twice', (t) => t.replace('"tag": "B1"', '"tag": "L1"'), /“L1”, which slevel has already/],
    ['a setting out of range', (t) => t.replace(/"airC": -?\d+/, '"airC": 900'), /900, expected -?\d+ to \d+ °C/],
    [
      'a choice that is none',
      (t) => t.replace('"load": "pump"', '"load": "pumpp"'),
      /“pumpp”, expected one of .* \(pump\)/,
    ],
  ]
  test.each(CONTRADICTIONS)('%s is told with its place', (_name, spoil, words) => {
    const text = spoil(good)
    expect(text).not.toBe(good)
    expect(found(text).join('\n')).toMatch(words)
  })

  test('a hint never repeats what stands there already', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('ranger-echo', 'pump', 'D27'),
        fc.array(fc.constantFrom('ranger-echo', 'pump', 'D27', 'D2', 'pumps')),
        (word, words) => {
          expect(nearestWord(word, words)).not.toBe(word)
        },
      ),
    )
  })
})

describe('the command line', () => {
  const run = (...args: string[]) => {
    try {
      return {
        code: 0,
        out: execFileSync('node', ['build/vivid.mjs', ...args], {
          encoding: 'utf8',
          maxBuffer: 1e9,
          stdio: ['ignore', 'pipe', 'pipe'],
        }),
        err: '',
      }
    } catch (e) {
      const { status, stdout, stderr } = e as { status: number; stdout: string; stderr: string }
      return { code: status, out: stdout, err: stderr }
    }
  }
  const file = path.join(tempFolder(), 'design.json')

  test('exits 0 when fine, 1 on a stop finding, 2 on input that cannot be read', () => {
    fs.writeFileSync(file, good)
    expect(run('check', file)).toMatchObject({
      code: 1,
      out: expect.stringMatching(/STOP L1 {2}ECHO can reach 5\.00 V/),
    })
    expect(run('pins', file, '--json')).toMatchObject({ code: 0 })
    expect(JSON.parse(run('pins', file, '--json').out)).toMatchObject({
      kind: 'planned',
      proven: true,
      pins: slipTank().plan.pins,
    })
    expect(run('node-file', file)).toMatchObject({
      code: 1,
      out: expect.stringMatching(/cannot reach[\s\S]*--broker HOST/),
    })
    expect(JSON.parse(run('node-file', file, '--broker', '192.0.2.7', '--json').out)).toMatchObject({
      node: 'slip-tank',
    })
    expect(run('wires', file).out.split('\n')).toHaveLength(32)
    expect(run('td', file).code).toBe(0)
    const csv = run('wires', file, '--csv').out.split('\r\n')
    expect(csv[0]).toBe('number,tag,from,to,insulation,gauge mm²,length m,made,note')
    expect(csv).toContain('W6,L1b,Ranger ECHO,board D34,white,0.22,0.4,no,')
    expect(run('pins', file, '--csv')).toMatchObject({ code: 2, err: expect.stringMatching(/“pins” has no CSV/) })
    fs.writeFileSync(file, good.replace('"hue": 1', '"hue": 9'))
    expect(run('check', file)).toMatchObject({
      code: 2,
      err: expect.stringMatching(/design\.json:\d+:\d+ signals › spump › hue: found 9, expected at most 7/),
    })
    expect(run('check', 'nowhere.json')).toMatchObject({
      code: 2,
      err: expect.stringMatching(/nowhere\.json: cannot be read/),
    })
    expect(run('chek', file)).toMatchObject({ code: 2, err: expect.stringMatching(/did you mean “check”/) })
  })
  test('600 lines, 60 000 wires and settings no edit would let in: an answer or words within seconds, never a stack', () => {
    const design = slipTank()
    const began = Date.now()
    const many = Array.from({ length: 600 }, (_, i) => [
      `b${i}`,
      { order: i, kind: 'button-ground', label: `Button ${i}`, settings: {}, feeds: {}, bus: null },
    ])
    const wires = Object.fromEntries(
      Array.from({ length: 60_000 }, (_, i) => [
        `part:x${i}.a|rail:GND`,
        { number: i + 1, made: true, insulation: 'red', gaugeMm2: 0.5 },
      ]),
    )
    for (const spoilt of [
      {
        ...design,
        parts: Object.fromEntries(many),
        signals: {},
        added: {},
        locks: {},
        plan: { pins: {}, basis: '' },
        wires: {},
      },
      { ...design, wires: { ...design.wires, ...wires } },
    ]) {
      fs.writeFileSync(file, JSON.stringify(spoilt))
      for (const command of ['check', 'pins', 'wires', 'node-file'])
        expect(run(command, file).code, command).toBeLessThan(2)
    }
    // Eight runs of the program: no single one of them may hang.
    expect(Date.now() - began).toBeLessThan(60_000)
    fs.writeFileSync(file, good.replace('"airC": 20', '"airC": 900').replace('"airC": 15', '"airC": 900'))
    for (const command of ['check', 'node-file'])
      expect(run(command, file, '--broker', '192.0.2.7')).toMatchObject({
        code: 2,
        err: expect.stringMatching(/settings › airC: found 900, expected/),
      })
    fs.writeFileSync(file, '['.repeat(1e5))
    expect(run('check', file)).toMatchObject({ code: 2, err: expect.not.stringMatching(/ {4}at /) })
  })
  test('knows the boards and parts a design brings along, and tells what a full board would need', () => {
    const board = catalog.boards['board-8266-16']
    if (!board) throw new Error('no board')
    const own = { ...board, id: 'my-board', name: 'My board' }
    const design = slipTank()
    const tooMany = Array.from({ length: 14 }, (_, i) => [
      `b${i}`,
      { order: i, kind: 'button-ground', label: `Button ${i}`, settings: {}, feeds: {}, bus: null },
    ])
    fs.writeFileSync(
      file,
      JSON.stringify({
        ...design,
        board: { id: 'my-board', version: 1 },
        items: { boards: [own], parts: [] },
        parts: Object.fromEntries(tooMany),
        signals: {},
        added: {},
        wires: {},
        locks: {},
        plan: { pins: {}, basis: '' },
      }),
    )
    const full = run('pins', file, '--json')
    expect(full.code).toBe(1)
    expect(JSON.parse(full.out)).toMatchObject({
      kind: 'impossible',
      proven: true,
      conflicts: [{ words: expect.stringMatching(/^\d lines need a pin/) }],
      frees: expect.arrayContaining([expect.objectContaining({ leaves: 0 })]),
    })
    expect(run('pins', file).out).toMatch(/What would free it:/)
    for (const command of ['check', 'wires']) expect(run(command, file).code, command).toBe(command === 'check' ? 1 : 0)
  })
})
