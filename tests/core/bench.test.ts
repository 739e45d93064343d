import fc from 'fast-check'
import fs from 'node:fs'
import { describe, expect, test } from 'vitest'
import { runChecks } from '../../src/core/checks/runChecks'
import { checkContext } from '../../src/core/checks/context'
import { calculationsOf } from '../../src/core/checks/calculationsOf'
import { CALCULATIONS } from '../../src/core/calculations/calculations'
import { writeBack } from '../../src/core/calculations/writeBack'
import { applyEdit, invertEdit } from '../../src/core/edits/apply'
import { addedOn, type Design } from '../../src/core/model/design'
import { editWords } from '../../src/core/edits/apply'
import { readDesign } from '../../src/core/model/readDesign'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { applyAll } from '../../src/core/alternatives/remedies'
import { railLoads } from '../../src/core/power/railLoads'
import { railsOf } from '../../src/core/power/rails'
import { wiringOf } from '../../src/core/wiring/netlist'
import { partRows, partsCsv, scheduleCsv, scheduleOf } from '../../src/core/wiring/schedule'
import { judgeMeasurement, workSteps } from '../../src/core/wiring/workSteps'
import { addParts, after, blank, catalog, slipTank } from '../support/designs'
import { seeded } from '../support/randomDesigns'

const board = (design: Design) =>
  catalog.boards[design.board.id] ??
  (() => {
    throw new Error('no board')
  })()
const demo = fs.readdirSync('demo/designs').map((f) => {
  const read = readDesign(fs.readFileSync(`demo/designs/${f}`, 'utf8'), catalog)
  if (!read.ok) throw new Error(f)
  return read.value
})
const mended = (design: Design) => {
  const finding = runChecks(design, catalog).find((f) => f.rule === 'input-over-maximum')
  return applyAll(design, finding?.remedies[0]?.edits ?? [], catalog) ?? design
}

/** A node of random kinds of part, far away or not, fed by what there is. */
function anyDesign(seed: number): Design {
  const random = seeded(seed)
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T
  let design = blank(one(Object.keys(catalog.boards)))
  const kinds = Array.from({ length: 1 + Math.floor(random() * 6) }, () => one(Object.keys(catalog.parts)))
  for (const edit of addParts(kinds)) {
    const applied = applyEdit(design, edit, catalog)
    if (applied.ok) design = applied.design
  }
  for (const [partId, part] of Object.entries(design.parts)) {
    const tries = [
      { kind: 'place-part' as const, partId, set: { cableM: one([0.2, 1.5, 8, 30]), outdoor: random() < 0.2 } },
      ...Object.keys(part.feeds).map((terminal) => ({
        kind: 'feed' as const,
        partId,
        terminal,
        rail: one(railsOf(design, board(design), catalog)).id,
      })),
      { kind: 'feed-board' as const, rail: one([null, ...railsOf(design, board(design), catalog).map((r) => r.id)]) },
      ...(catalog.parts[part.kind]?.settings ?? []).flatMap((s) =>
        'choices' in s ? [{ kind: 'set-part' as const, partId, setting: s.id, value: one(s.choices).id }] : [],
      ),
    ]
    for (const edit of tries) {
      const applied = random() < 0.5 ? applyEdit(design, edit, catalog) : null
      if (applied?.ok) design = applied.design
    }
  }
  return design
}

describe('findings of any node', () => {
  test('every remedy can be applied, ends its finding or lessens it, and is taken back to the letter', () => {
    let tried = 0
    fc.assert(
      fc.property(fc.nat(1e6), (seed) => {
        const design = anyDesign(seed)
        const findings = runChecks(design, catalog)
        expect(new Set(findings.map((f) => f.key)).size, 'keys are one of a kind').toBe(findings.length)
        for (const finding of findings.filter((f) => f.rule !== 'line-without-pin')) {
          for (const remedy of finding.remedies) {
            let at = design
            const inverses = []
            for (const edit of remedy.edits) {
              const inverse = invertEdit(at, edit, catalog)
              const applied = applyEdit(at, edit, catalog)
              if (!applied.ok || !inverse)
                throw new Error(`${finding.rule} “${remedy.label}”: ${applied.ok ? 'no inverse' : applied.reason}`)
              expect(editWords(edit, at)).not.toMatch(/undefined|\[object/)
              at = applied.design
              inverses.unshift(inverse)
            }
            const left = runChecks(at, catalog).find((f) => f.key === finding.key)
            const rank = (s: string) => ['stop', 'fix', 'note'].indexOf(s)
            expect(
              !left || rank(left.severity) > rank(finding.severity) || left.sentence !== finding.sentence,
              `${finding.rule} “${remedy.label}” leaves “${left?.sentence}”`,
            ).toBe(true)
            for (const inverse of inverses) {
              const back = applyEdit(at, inverse, catalog)
              if (!back.ok) throw new Error(back.reason)
              at = back.design
            }
            expect(canonicalJson(at)).toBe(canonicalJson(design))
            tried += 1
          }
        }
      }),
      { examples: [[440871], [459205]], numRuns: 80 },
    )
    expect(tried).toBeGreaterThan(80)
  })

  test('words are whole: no number that is none, no name that is missing', () => {
    fc.assert(
      fc.property(fc.nat(1e6), (seed) => {
        for (const f of runChecks(anyDesign(seed), catalog)) {
          const words = [
            f.sentence,
            ...(f.working?.steps.flatMap((s) => [s.gives, s.formula, s.numbers, s.result]) ?? []),
            ...f.remedies.map((r) => r.label),
          ]
          for (const w of words) expect(w, f.rule).not.toMatch(/NaN|undefined|null|\[object|^$/)
          expect(f.sentence, f.rule).toMatch(/[.:]$|\. \S/)
        }
      }),
      { numRuns: 80 },
    )
  })

  test('every sum a node calls for is filled in within its fields, and its own value goes back as it is', () => {
    fc.assert(
      fc.property(fc.nat(1e6), (seed) => {
        const design = anyDesign(seed)
        const context = checkContext(design, catalog)
        if (!context) return
        for (const s of calculationsOf(context)) {
          for (const f of CALCULATIONS[s.id].fields)
            expect(s.given[f.id], `${s.id} ${f.id} of ${s.subject}`).toSatisfy(
              (v) => typeof v === 'number' && v >= f.min && v <= f.max,
            )
          for (const edit of writeBack(design, s, s.given))
            expect(applyEdit(design, edit, catalog).ok || edit.kind === 'add-component', `${s.id} ${s.subject}`).toBe(
              true,
            )
        }
      }),
      { numRuns: 60 },
    )
  })

  test('currents of all rails together are never less than those of the parts on them', () => {
    fc.assert(
      fc.property(fc.nat(1e6), (seed) => {
        const design = anyDesign(seed)
        for (const { rail, loads, peakA, idleA } of railLoads(design, board(design), catalog)) {
          expect(peakA).toBeGreaterThanOrEqual(idleA - 1e-9)
          const parts = Object.entries(design.parts).flatMap(([id, p]) =>
            (catalog.parts[p.kind]?.terminals ?? []).flatMap((t) =>
              t.role === 'supply' &&
              p.feeds[t.id] === rail.id &&
              !catalog.parts[p.kind]?.terminals.some((s) => s.role === 'source')
                ? [{ id, a: t.peakA }]
                : [],
            ),
          )
          expect(peakA).toBeGreaterThanOrEqual(parts.reduce((s, p) => s + p.a, 0) - 1e-9)
          expect(loads.filter((l) => l.partId !== null).length).toBeGreaterThanOrEqual(parts.length)
        }
      }),
      { numRuns: 80 },
    )
  })
})

describe('the work-through', () => {
  test('has every wire once; rails are measured before the lines, and a divider before its wire reaches the pin', () => {
    for (const design of [...demo, mended(slipTank())]) {
      const wiring = wiringOf(design, catalog)
      const steps = workSteps(design, catalog, wiring)
      expect(steps.flatMap((s) => (s.kind === 'wire' ? [s.key] : [])).sort()).toEqual(
        wiring.wires.map((w) => w.key).sort(),
      )
      const firstLine = steps.findIndex((s) => s.kind === 'wire' && s.line !== null)
      for (const [i, s] of steps.entries())
        if (s.kind === 'measure' && !s.key.startsWith('divider:'))
          expect(i).toBeLessThan(firstLine === -1 ? Infinity : firstLine)
      for (const [i, s] of steps.entries()) {
        if (s.kind !== 'wire' || s.row.wire.to.kind !== 'pin' || !s.line || !addedOn(design, s.line.key, 'divider'))
          continue
        expect(steps.slice(0, i).some((m) => m.key === `divider:${s.line?.key}`)).toBe(true)
      }
    }
  })

  test('asks for what the arithmetic says: 2.64 to 3.46 V behind 1.5 over 3.3 kΩ, and no short on 5 V', () => {
    const measures = workSteps(mended(slipTank()), catalog, wiringOf(mended(slipTank()), catalog)).flatMap((s) =>
      s.kind === 'measure' ? [s.measure] : [],
    )
    // 4.3 · 0.9 · 3267 / (1515 + 3267) and 5.0 · 3333 / (1485 + 3333), on paper.
    expect(measures.find((m) => m.key === 'divider:ranger.echo')).toMatchObject({
      unit: 'V',
      min: 2.64,
      max: 3.46,
      how: expect.stringMatching(/D34 not connected yet/),
    })
    // Half of 500 mA at 5.0 V is 20 Ω.
    expect(measures.find((m) => m.key === 'ohm:5V')).toMatchObject({ unit: 'Ω', min: 20 })
    expect(measures.find((m) => m.key === 'volt:5V')).toMatchObject({
      min: 4.3,
      max: 5,
      how: expect.stringMatching(/USB/),
    })
    const gallery = demo.find((d) => d.slug === 'gallery-door') ?? slipTank()
    const rails = workSteps(gallery, catalog, wiringOf(gallery, catalog)).map((s) => s.key)
    expect(rails).toEqual(expect.arrayContaining(['volt:panel.out', 'volt:conv.out', 'ohm:panel.out']))
  })

  test('a reading is judged at both ends, and no number at all is none', () => {
    const m = { key: 'x', title: 'rail', how: '', unit: 'V' as const, min: 4.75, max: 5.25, why: '' }
    expect([4.74, 4.75, 5.25, 5.26, NaN].map((v) => judgeMeasurement(m, v).ok)).toEqual([
      false,
      true,
      true,
      false,
      false,
    ])
    expect(judgeMeasurement(m, 5.5).words).toMatch(/5\.50 V is above 5\.25 V: stop/)
    expect(judgeMeasurement({ ...m, unit: 'Ω', min: 21, max: Infinity }, 1e6)).toMatchObject({
      ok: true,
      words: '1 MΩ is 21 Ω or more.',
    })
  })
})

describe('lists', () => {
  test('the schedule has each wire with both ends as printed, and the parts list counts what is added and every metre of wire', () => {
    const design = mended(slipTank())
    const wiring = wiringOf(design, catalog)
    const rows = scheduleOf(design, wiring)
    expect(rows.map((r) => r.number)).toEqual([...rows.map((r) => r.number)].sort((a, b) => a - b))
    expect(rows.find((r) => r.to === 'board D34')).toMatchObject({ from: 'R1 b', tag: 'L1b′', gaugeMm2: 0.22 })
    const parts = partRows(design, catalog, board(design), wiring)
    expect(parts.find((p) => p.value === '1.5 kΩ 1 %')).toMatchObject({ count: 1, names: 'R1' })
    const metres = parts
      .flatMap((p) => (p.what.startsWith('wire') ? [Number(p.value.replace(' m', ''))] : []))
      .reduce((a, b) => a + b, 0)
    const true_ = rows.reduce((s, r) => s + r.lengthM, 0)
    expect(metres).toBeGreaterThanOrEqual(true_ - 1e-9)
    expect(metres).toBeLessThan(true_ + 0.1 * parts.length)
  })

  test('CSV survives commas, quotes and formulas in names', () => {
    const odd = after(slipTank(), { kind: 'rename-part', partId: 'ranger', label: '=SUM(A1), "x"' })
    const csv = scheduleCsv(odd, wiringOf(odd, catalog))
    expect(csv).toContain(`"'=SUM(A1), ""x"" TRIG"`)
    expect(csv.split('\r\n')).toHaveLength(wiringOf(odd, catalog).wires.length + 1)
    expect(partsCsv(odd, catalog, board(odd), wiringOf(odd, catalog)).split('\r\n')[0]).toBe('what,value,count,names')
  })
})

describe('what feeds the board', () => {
  const withCell = after(blank('board-c3-16'), {
    kind: 'add-part',
    partId: 'cell',
    part: 'cell-18650',
    label: 'Cell',
    signals: [],
  })
  test('takes the place of USB at its rail, and is let go when its part goes', () => {
    const fed = after(withCell, { kind: 'feed-board', rail: 'cell.p' })
    expect(railsOf(fed, board(fed), catalog).find((r) => r.id === '5V')).toMatchObject({
      min: 3,
      max: 4.2,
      limitA: 2,
      source: 'Cell +',
    })
    expect(wiringOf(fed, catalog).wires.map((w) => w.key)).toContain('rail:5V|rail:cell.p')
    expect(after(fed, { kind: 'remove-part', partId: 'cell' }).boardFeed).toBeNull()
  })
  test('is refused where the board does not stand it, where it alternates, and where nothing begins', () => {
    const bell = after(withCell, {
      kind: 'add-part',
      partId: 'bell',
      part: 'bell-transformer',
      label: 'Bell',
      signals: [],
    })
    for (const [rail, words] of [
      ['bell.out', /alternating/],
      ['5V', /nothing begins/],
      ['none.x', /nothing begins/],
    ] as const) {
      expect(applyEdit(bell, { kind: 'feed-board', rail }, catalog)).toMatchObject({
        ok: false,
        reason: expect.stringMatching(words),
      })
    }
  })
})

describe('components', () => {
  test('one of a kind on a line or rail, each name once, on lines and rails that are there', () => {
    const design = slipTank()
    const pull = (line: string, name: string) => ({
      kind: 'add-component' as const,
      componentId: `c${name.toLowerCase()}`,
      component: {
        type: 'pull' as const,
        line,
        names: [name] as [string],
        level: 'high' as const,
        ohm: 1000,
        tolerance: 0.05,
      },
    })
    expect(applyEdit(design, pull('probe.data', 'R9'), catalog)).toMatchObject({
      ok: false,
      reason: 'there is a pull already',
    })
    expect(applyEdit(design, pull('button.a', 'R3'), catalog)).toMatchObject({
      ok: false,
      reason: 'R3 is the name of another component',
    })
    expect(applyEdit(design, pull('gone.x', 'R9'), catalog)).toMatchObject({
      ok: false,
      reason: 'its line is no longer in the design',
    })
    expect(
      applyEdit(
        design,
        {
          kind: 'add-component',
          componentId: 'ff',
          component: { type: 'fuse', rail: 'cell.p', names: ['F1'], ratedA: 1, slow: false },
        },
        catalog,
      ),
    ).toMatchObject({ ok: false, reason: 'there is no rail “cell.p”', accepts: expect.stringMatching(/^5 V, 3.3 V/) })
    const bulk = after(design, {
      kind: 'add-component',
      componentId: 'bb',
      component: { type: 'bulk', rail: '5V', names: ['C1'], farad: 1e-3 },
    })
    expect(
      wiringOf(bulk, catalog)
        .wires.filter((w) => w.key.includes('leg:bb'))
        .map((w) => w.tag)
        .sort(),
    ).toEqual(['5V', 'GND'])
  })
})
