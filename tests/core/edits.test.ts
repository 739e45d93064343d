import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { applyEdit, invertEdit, touchedBy } from '../../src/core/edits/apply'
import { changesBetween, invertChanges, patch } from '../../src/core/documents/changes'
import { type Design, designSchema } from '../../src/core/model/design'
import { type EditBody, editBodySchema } from '../../src/core/edits/edit'
import { DESIGN_EDITS } from '../../src/core/edits/kinds'
import { slugFrom } from '../../src/core/model/slug'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import { planLines } from '../../src/core/lines/lines'
import { priceOf } from '../../src/core/pins/planPins'
import { designEditing } from '../../src/ui/live/designEditing'
import { addPart, after, catalog, slipTank } from '../support/designs'
import { kinds, record } from '../support/edits'

/** What has to stand in the design before some kinds can do anything. */
const first: Partial<Record<string, EditBody[]>> = {
  'add-signal': [
    { kind: 'remove-signal', signalId: 'slevel' },
    { kind: 'remove-signal', signalId: 'spress' },
  ],
  gather: [addPart('new0', 'button-ground'), addPart('new1', 'button-ground')],
  'set-guard': [
    {
      kind: 'add-part',
      partId: 'flap',
      part: 'contact-reed',
      label: 'Flap',
      signals: [{ id: 'sgone', channel: 'open' }],
    },
    { kind: 'set-guard', guardId: 'g1', guard: { kind: 'needs', output: 'spump', input: 'sgone', is: true } },
  ],
  unlock: [
    { kind: 'lock', line: 'ranger.trig', pin: 'D27' },
    { kind: 'lock', line: 'button.a', pin: 'D32' },
  ],
}

function frozen<T>(value: T): T {
  if (typeof value === 'object' && value !== null) {
    Object.values(value).forEach(frozen)
    Object.freeze(value)
  }
  return value
}

describe('every edit kind', () => {
  test.each(Object.entries(kinds))(
    '%s: applied and inverted gives the same design, on any design, or is refused whole',
    (kind, edits) => {
      let applied = 0
      fc.assert(
        fc.property(fc.array(fc.oneof(...Object.values(kinds)), { maxLength: 5 }), edits, (before, edit) => {
          let design = frozen(slipTank())
          for (const e of [...before, ...(first[kind] ?? [])]) {
            const r = applyEdit(design, e, catalog)
            if (r.ok) design = frozen(r.design)
          }
          expect(editBodySchema.safeParse(edit).success).toBe(true)
          const own = DESIGN_EDITS.find((k) => k.schema.shape.kind.value === edit.kind)
          const step = own?.apply(design, edit as never, catalog)
          const touched = step && 'id' in step ? changesBetween(design, step).map((c) => c.path[0]) : []
          expect(touchedBy(edit)).toEqual(expect.arrayContaining(touched))
          const result = applyEdit(design, edit, catalog)
          if (!result.ok) {
            expect(result.reason.length).toBeGreaterThan(5)
            return
          }
          applied += 1
          designSchema.parse(result.design)
          const back = invertEdit(design, edit, catalog)
          const undone = back && applyEdit(result.design, back, catalog)
          expect(undone?.ok && canonicalJson(undone.design)).toBe(canonicalJson(design))
          const again = undone?.ok && back ? invertEdit(result.design, back, catalog) : null
          const redone = undone?.ok && again ? applyEdit(undone.design, again, catalog) : null
          expect(redone?.ok && canonicalJson(redone.design)).toBe(canonicalJson(result.design))
        }),
        { numRuns: 40 },
      )
      if (kind !== 'revert') expect(applied).toBeGreaterThan(0)
    },
  )

  test('a revert refuses when someone has changed the same place since, and says which', () => {
    const before = slipTank()
    const mine: EditBody = { kind: 'condition', signalId: 'slevel', set: { median: 3 } }
    const back = invertEdit(before, mine, catalog)
    const later = after(before, mine, { kind: 'condition', signalId: 'slevel', set: { median: 9 } })
    const refused = back && applyEdit(later, back, catalog)
    expect(refused).toMatchObject({ ok: false, reason: expect.stringContaining('L1') })
    const elsewhere = after(before, mine, { kind: 'rename-part', partId: 'button', label: 'Call' })
    const undone = back && applyEdit(elsewhere, back, catalog)
    expect(undone?.ok && undone.design.parts.button?.label).toBe('Call')
    expect(undone?.ok && undone.design.signals.slevel?.conditioning.median).toBe(5)
  })
})

test('differences between any two trees lead from one to the other and back', () => {
  const tree = fc.dictionary(
    fc.constantFrom('a', 'b', 'c'),
    fc.oneof(
      fc.integer(),
      fc.dictionary(
        fc.constantFrom('x', 'y'),
        fc.oneof(fc.boolean(), fc.dictionary(fc.constantFrom('p', 'q'), fc.nat(3))),
      ),
    ),
  )
  fc.assert(
    fc.property(tree, tree, (a, b) => {
      const changes = changesBetween(a, b)
      const there = patch(a, changes)
      expect(there.ok && canonicalJson(there.value)).toBe(canonicalJson(b))
      const back = patch(b, invertChanges(changes))
      expect(back.ok && canonicalJson(back.value)).toBe(canonicalJson(a))
    }),
  )
})

test('made marks, numbers and wire labels survive recomputation and other parts going', () => {
  const before = slipTank()
  const key = Object.keys(before.wires).find((k) => k.includes('probe.data')) ?? ''
  const now = after(
    before,
    { kind: 'mark-wire', wire: key, made: true },
    { kind: 'remove-part', partId: 'ranger' },
    addPart('x1', 'button-ground'),
  )
  expect(now.wires[key]).toEqual({ ...before.wires[key], made: true })
  const numbers = Object.values(now.wires).map((w) => w.number)
  expect(new Set(numbers).size).toBe(numbers.length)
})

test('another board: parts, signals, names, conditioning and calibration survive', () => {
  const before = after(
    slipTank(),
    { kind: 'remove-part', partId: 'overflow' },
    {
      kind: 'calibrate',
      signalId: 'slevel',
      calibration: {
        recordId: record,
        gain: 1.01,
        offset: 0.002,
        date: '2026-11-24',
        points: 2,
        curve: null,
        span: null,
        expires: null,
      },
    },
  )
  const now = after(before, { kind: 'choose-board', board: 'board-8266-16' })
  expect(now.signals).toEqual(before.signals)
  expect(Object.keys(now.plan.pins).sort()).toEqual(Object.keys(before.plan.pins).sort())
  const back = after(now, { kind: 'choose-board', board: 'board-32-30' })
  const cost = (d: Design) =>
    priceOf(
      d,
      catalog.boards['board-32-30'] ??
        (() => {
          throw new Error()
        })(),
      planLines(d, catalog),
      d.plan.pins,
    ).cost
  expect(cost(back)).toBe(cost(before))
})

test('slugs are legal, free and keep what can be kept', () => {
  expect(slugFrom('Slip tank, left')).toBe('slip-tank-left')
  expect(slugFrom('Überlauf Nº 2')).toBe('uberlauf-no-2')
  fc.assert(
    fc.property(fc.string(), fc.array(fc.string()), (text, taken) => {
      const slug = slugFrom(text, taken)
      expect(slug).toMatch(/^[a-z0-9-]{1,40}$/)
      expect(taken).not.toContain(slug)
    }),
  )
})

describe('a state made of a reading', () => {
  const make: EditBody = {
    kind: 'make-state',
    signalId: 'sfill',
    of: 'slevel',
    slug: 'fill',
    levels: { words: ['low', 'some', 'full'], cuts: [0.3, 0.9], band: 0, holdS: [0, 0, 0], unknown: null, on: 1 },
  }
  const levels = (words: string[], cuts = words.slice(1).map((_, i) => i)): EditBody => ({
    kind: 'condition',
    signalId: 'sfill',
    set: { levels: { words, cuts, band: 0, holdS: words.map(() => 0), unknown: null, on: 1 } },
  })
  const rule = (when: { is: string } | boolean): EditBody => ({
    kind: 'set-rule',
    ruleId: 'r1',
    rule: { from: 'sfill', when, forS: 0, to: 'spump', do: true, works: 'always' },
  })
  const refusal = (design: Design, edit: EditBody) => {
    const r = applyEdit(design, edit, catalog)
    return r.ok ? '' : r.reason
  }

  test('a rule waits for its words, goes along when one is renamed, and is never left waiting in vain', () => {
    const design = after(slipTank(), make, rule({ is: 'full' }))
    expect(refusal(design, rule(true))).toMatch(/never does that/)
    expect(refusal(design, rule({ is: 'empty' }))).toMatch(/never does that/)
    expect(after(design, levels(['low', 'some', 'over'])).rules.r1?.when).toEqual({ is: 'over' })
    expect(refusal(design, levels(['low', 'full']))).toMatch(/never be again/)
    expect(
      refusal(design, {
        kind: 'set-guard',
        guardId: 'g1',
        guard: { kind: 'needs', output: 'spump', input: 'sfill', is: true },
      }),
    ).toMatch(/true or false/)
    const two = after(slipTank(), make, levels(['low', 'high']), rule(true), {
      kind: 'set-guard',
      guardId: 'g1',
      guard: { kind: 'needs', output: 'spump', input: 'sfill', is: true },
    })
    expect(refusal({ ...two, rules: {} }, levels(['a', 'b', 'c']))).toMatch(/goes by/)
  })

  test('it goes with its reading, cannot be made of anything else, and is no reading itself', () => {
    const design = after(slipTank(), make, rule({ is: 'full' }))
    const gone = after(design, { kind: 'remove-signal', signalId: 'slevel' })
    expect(gone.signals.sfill).toBeUndefined()
    expect(gone.rules).toEqual({})
    expect(after(design, { kind: 'remove-signal', signalId: 'sfill' }).signals.slevel).toBeDefined()
    expect(refusal(design, { ...make, signalId: 'sx', slug: 'other', of: 'spump' })).toMatch(/no reading/)
    expect(refusal(design, { ...make, signalId: 'sx', slug: 'other', of: 'sfill' })).toMatch(/no reading/)
    expect(
      refusal(design, {
        kind: 'calibrate',
        signalId: 'sfill',
        calibration: {
          recordId: record,
          gain: 2,
          offset: 0,
          date: '2026-11-20',
          points: 2,
          curve: null,
          span: null,
          expires: null,
        },
      }),
    ).toMatch(/nothing to calibrate/)
    // A copied part takes the reading along, not the words under the same name.
    const copied = after(design, {
      kind: 'copy-part',
      partId: 'ranger',
      newId: 'ranger2',
      label: 'Ranger 2',
      signals: [{ id: 'slevel2', channel: 'distance' }],
    })
    expect(copied.signals.slevel2?.conditioning.levels).toBeNull()
    expect(refusal(design, { kind: 'condition', signalId: 'slevel', set: { levels: make.levels } })).toMatch(
      /made of no reading/,
    )
  })
})

describe('unsaved edits on a design that has moved on', () => {
  const { rebase, chosenBy } = designEditing(() => catalog)
  const pending = (body: EditBody) => ({ id: record, body, words: body.kind, at: '' })
  const moved = (design: Design, body: EditBody) => {
    const r = applyEdit(design, body, catalog)
    if (!r.ok) throw new Error(r.reason)
    return r
  }
  test('different places: both stand', () => {
    const theirs = moved(slipTank(), { kind: 'rename-part', partId: 'button', label: 'Call' })
    const out = rebase(
      theirs.design,
      [pending({ kind: 'condition', signalId: 'slevel', set: { median: 3 } })],
      theirs.changes,
    )
    expect(out.dropped).toEqual([])
    expect(out.current.parts.button?.label).toBe('Call')
    expect(out.current.signals.slevel?.conditioning.median).toBe(3)
  })
  test('the same place: theirs stands, mine is named and dropped', () => {
    const theirs = moved(slipTank(), { kind: 'condition', signalId: 'slevel', set: { median: 9 } })
    const out = rebase(
      theirs.design,
      [pending({ kind: 'condition', signalId: 'slevel', set: { median: 3 } })],
      theirs.changes,
    )
    expect(out.dropped).toHaveLength(1)
    expect(out.current.signals.slevel?.conditioning.median).toBe(9)
  })
  test('one wire marked by two: the later word is named and dropped; wires that only got numbers are nobody’s', () => {
    const wire = Object.keys(slipTank().wires)[0] ?? ''
    const made = after(slipTank(), { kind: 'mark-wire', wire, made: true })
    const body: EditBody = { kind: 'set-wire', wire, set: { gaugeMm2: 0.75 } }
    const theirs = moved(made, { kind: 'set-wire', wire, set: { gaugeMm2: 1 } })
    expect(rebase(theirs.design, [pending(body)], chosenBy(body, theirs.changes)).dropped).toHaveLength(1)
    const signals = [{ id: 'slate', channel: 'open' }]
    const part: EditBody = { kind: 'add-part', partId: 'late', part: 'contact-reed', label: 'Late', signals }
    const other = moved(made, part)
    expect(rebase(other.design, [pending(body)], chosenBy(part, other.changes)).dropped).toEqual([])
  })
})
