import fs from 'node:fs'
import { describe, expect, test } from 'vitest'
import type { Board } from '../../src/core/catalog/board'
import { readItem } from '../../src/core/catalog/itemFile'
import { type PartKind, partKindSchema } from '../../src/core/catalog/part'
import type { Catalog } from '../../src/core/catalog/catalog'
import { renewItem } from '../../src/core/catalog/renew'
import { runChecks } from '../../src/core/checks/runChecks'
import { installSteps } from '../../src/core/bundle/installSteps'
import type { EditBody } from '../../src/core/edits/edit'
import { designSchema, type Design } from '../../src/core/model/design'
import { designText, readDesign } from '../../src/core/model/readDesign'
import { planPins } from '../../src/core/pins/planPins'
import { after, blank, catalog } from '../support/designs'
import { randomDesign, seeded } from '../support/randomDesigns'

// Words are for people. Whatever a rule, a weight or a step goes by stands beside them, and stays when they are put
// otherwise.

const bare = (partId: string, part: string): EditBody => ({ kind: 'add-part', partId, part, label: 'One', signals: [] })

let said = 0
const other = () => `words ${++said}`

function reworded(kind: PartKind): PartKind {
  return {
    ...kind,
    name: other(),
    summary: other(),
    source: other(),
    settings: kind.settings.map((s) => ({
      ...s,
      label: other(),
      why: other(),
      ...('choices' in s ? { choices: s.choices.map((c) => ({ ...c, label: other() })) } : {}),
    })) as PartKind['settings'],
    cautions: kind.cautions.map((c) => ({ ...c, title: other(), text: other() })),
    channels: kind.channels.map((c) => ({ ...c, name: other() })) as PartKind['channels'],
  }
}

function rewordedBoard(board: Board): Board {
  const positions = board.positions.map((p) =>
    p.kind === 'pin'
      ? {
          ...p,
          quirks: p.quirks.map((q) => ({ ...q, word: other(), reason: other(), ...(q.ask ? { ask: q.ask } : {}) })),
        }
      : p,
  )
  return { ...board, name: other(), recognise: other(), positions }
}

const strange: Catalog = {
  boards: Object.fromEntries(Object.entries(catalog.boards).map(([id, b]) => [id, rewordedBoard(b)])),
  parts: Object.fromEntries(Object.entries(catalog.parts).map(([id, k]) => [id, reworded(k)])),
}

const demo = fs
  .readdirSync('demo/designs')
  .map((f): Design => designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${f}`, 'utf8'))))
/** Every part with every one of its choices, one after the other, each on a board of its own. */
const eachChoice = Object.values(catalog.parts).flatMap((kind) =>
  kind.settings.flatMap((s) =>
    'choices' in s
      ? s.choices.map((c) =>
          after(blank('board-s3-44'), bare('one', kind.id), {
            kind: 'set-part',
            partId: 'one',
            setting: s.id,
            value: c.id,
          }),
        )
      : [],
  ),
)
const random = seeded(7)
const designs = [...demo, ...eachChoice, ...Array.from({ length: 60 }, () => randomDesign(random, 8))]

const findings = (design: Design, of: Catalog) =>
  runChecks(design, of)
    .map((f) => `${f.severity} ${f.key}`)
    .sort()

describe('a catalogue in other words', () => {
  test('finds the same', () => {
    expect(eachChoice.length).toBeGreaterThan(60)
    let found = 0
    for (const design of designs) {
      const usual = findings(design, catalog)
      found += usual.length
      expect(findings(design, strange), design.name).toEqual(usual)
    }
    expect(found).toBeGreaterThan(300)
  })

  test('plans the same pins', () => {
    for (const design of demo) {
      const [a, b] = [planPins(design, catalog), planPins(design, strange)]
      expect(b.kind === 'planned' && a.kind === 'planned' ? [b.pins, b.price.cost] : b.kind).toEqual(
        a.kind === 'planned' ? [a.pins, a.price.cost] : a.kind,
      )
    }
  })

  test('tells of mains before a cable joins board and computer', () => {
    for (const design of [...demo, ...eachChoice]) {
      const warned = (of: Catalog) => {
        const board = of.boards[design.board.id]
        if (!board) throw new Error('no board')
        return installSteps(design, board, of, { name: 'x.zip', withPasswords: false }).some(
          (s) => s.title === 'Mains off and away',
        )
      }
      expect(warned(strange), design.name).toBe(warned(catalog))
    }
    expect(eachChoice.some((d) => runChecks(d, catalog).some((f) => f.rule === 'caution'))).toBe(true)
  })
})

describe('files of the release before', () => {
  const relay = catalog.parts['relay-module-low']
  if (!relay) throw new Error('no relay')
  /** As it was written then: choices by their words, what they mean by the same words. */
  const before = {
    ...relay,
    id: 'relay-of-old',
    settings: relay.settings.map((s) => {
      if (!('choices' in s)) return s
      const { choices, ...rest } = s
      const means = Object.fromEntries(choices.flatMap((c) => (c.means ? [[c.label, c.means]] : [])))
      return {
        ...rest,
        default: choices.find((c) => c.id === s.default)?.label,
        choices: choices.map((c) => c.label),
        means,
      }
    }),
    cautions: relay.cautions.map(({ mains: _, when, ...c }) => {
      const setting = relay.settings.find((s) => s.id === when?.setting)
      const is = setting && 'choices' in setting ? setting.choices.find((c) => c.id === when?.is)?.label : undefined
      return { ...c, when: when && { ...when, is } }
    }),
  }

  test('a part is read as it was meant, and the same as one of today', () => {
    const read = readItem(JSON.stringify(before, null, 1))
    expect(read.ok && read.item.value).toEqual({ ...relay, id: 'relay-of-old' })
    expect(renewItem(relay)).toEqual(relay)
  })

  test('a design that kept the words of a choice finds what it found', () => {
    const now = after(blank(), bare('pump', 'relay-module-low'), {
      kind: 'set-part',
      partId: 'pump',
      setting: 'load',
      value: 'mains-load',
    })
    const text = designText(now).replace('"mains-load"', '"mains load"')
    expect(text).toContain('"mains load"')
    const read = readDesign(text, catalog)
    expect(read.ok && read.value.parts.pump?.settings.load).toBe('mains-load')
    expect(read.ok && findings(read.value, catalog)).toEqual(findings(now, catalog))
    // One that carries its part along, as it was then.
    const carried = JSON.parse(text) as { parts: { pump: { kind: string } }; items: { parts: unknown[] } }
    carried.parts.pump.kind = 'relay-of-old'
    carried.items.parts = [before]
    const own = readDesign(JSON.stringify(carried), catalog)
    expect(own.ok ? own.value.parts.pump?.settings.load : own.problems).toBe('mains-load')
    expect(
      own.ok &&
        runChecks(own.value, {
          ...catalog,
          parts: { ...catalog.parts, ...Object.fromEntries(own.value.items.parts.map((p) => [p.id, p])) },
        }).some((f) => f.key.startsWith('caution:')),
    ).toBe(true)
  })

  test('a caution or a usual choice that hangs on nothing is refused with the place', () => {
    const wrong = partKindSchema.safeParse({
      ...relay,
      cautions: relay.cautions.map((c) => ({ ...c, when: { setting: 'load', is: 'pumpe' } })),
    })
    expect(wrong.error?.issues[0]).toMatchObject({
      path: ['cautions', 0, 'when'],
      message: expect.stringMatching(/one of its choices/),
    })
    const unusual = partKindSchema.safeParse({
      ...relay,
      settings: relay.settings.map((s) => ('choices' in s ? { ...s, default: 'none-such' } : s)),
    })
    expect(unusual.error?.issues[0]?.path).toEqual(expect.arrayContaining(['settings', 'default']))
  })
})
