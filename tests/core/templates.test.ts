import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Template } from '../../src/core/model/template'
import { renderTemplate } from '../../src/core/templates/render'
import { catalog, slipTank } from '../support/designs'

const design = slipTank()
const nodes = [{ id: design.id, design, place: 'Clay yard' }]
const template = (part: Partial<Template>): Template => ({
  name: 'panel',
  per: 'entity',
  topic: 'panel/{{ entity.slug }}',
  payload: '{"n": {{ entity.full_name | json }}}',
  json: true,
  on: true,
  ...part,
})
const made = (part: Partial<Template>) => renderTemplate(template(part), nodes, catalog, 'vn')
const faults = (part: Partial<Template>) => made(part).faults.map((f) => `${f.where}: ${f.words}`)

describe('announcement templates', () => {
  test('make a message for each entity, or one for each node with all of them', () => {
    expect(
      made({})
        .messages.map((m) => m.topic)
        .sort(),
    ).toEqual(
      Object.values(design.signals)
        .map((s) => `panel/${s.slug}`)
        .sort(),
    )
    const one = made({
      per: 'node',
      topic: 'panel/{{ node.slug }}',
      payload: '[{% for e in entities %}{{ e.topic | json }}{% unless forloop.last %},{% endunless %}{% endfor %}]',
    })
    expect(one.messages.map((m) => JSON.parse(m.payload) as unknown)).toEqual([
      expect.arrayContaining(['vn/slip-tank/level', 'vn/slip-tank/pump']),
    ])
  })

  test.each([
    ['no topic', { topic: ' ' }, /topic: is empty/],
    ['a wildcard', { topic: 'panel/+' }, /no topic/],
    ['the nodes’ own root', { topic: 'vn/slip-tank/level' }, /below vn\//],
    ['the same topic for all', { topic: 'panel/all' }, /would take its place/],
    ['nothing to say', { payload: '  ', json: false }, /thing is gone/],
    ['no JSON', { payload: '{"n": {{ entity.name }}' }, /not JSON/],
    ['an unknown field', { payload: '{{ entity.colour }}' }, /undefined variable: entity.colour/],
    ['an unknown filter', { payload: '{{ entity.name | shout }}' }, /undefined filter: shout/],
    ['a brace that stays open', { payload: '{{ entity.name' }, /not closed/],
    ['a file', { payload: '{% include "/etc/passwd" %}' }, /tag "include" not found/],
    ['a file by another tag', { payload: '{% layout "/etc/passwd" %}' }, /tag "layout" not found/],
    ['what an object inherits', { payload: '{{ entity.constructor }}' }, /undefined variable/],
    ['a loop without end', { payload: '{% for i in (1..90000000) %}x{% endfor %}' }, /memory|ms/],
    [
      'loops within loops',
      { payload: '{% for i in (1..9000) %}{% for j in (1..9000) %}{% endfor %}{% endfor %}' },
      /memory|ms/,
    ],
    ['too much', { payload: '{% for i in (1..9000) %}xxxxxxxxxx{% endfor %}', json: false }, /memory|bytes/],
  ])('refuse %s', (_, part, words) => {
    expect(faults(part).join('\n')).toMatch(words)
    expect(made(part).messages).toEqual([])
  })

  test('whatever is written ends soon, says only what the sheet has, and never throws', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        '{{ entity.name }}',
        '{% for i in (1..999999) %}',
        '{% endfor %}',
        '{{ entity.__proto__ }}',
        '{{ entity.constructor.constructor }}',
        '{% assign x = entity.name | append: entity.name %}',
        '{{ x | append: x }}',
        '{% capture y %}',
        '{% endcapture %}',
        '{% raw %}',
        '{{ process.env }}',
        '{% render "a" %}',
        '{% if true %}',
        '| json }}',
        '{% tablerow i in (1..99999) %}',
        '{% cycle 1,2 %}',
        '{{ "a" | replace: "", "aaaaaaaa" }}',
        '{% increment n %}',
      ),
      fc.string({ maxLength: 12 }),
    )
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        const began = performance.now()
        const { messages } = made({ payload: pieces.join(''), json: false })
        expect(performance.now() - began).toBeLessThan(5000)
        for (const { payload } of messages) {
          expect(payload.length).toBeLessThan(20_000)
          expect(payload).not.toMatch(/function|native code|\/root|PATH=/)
        }
      }),
      { numRuns: 300 },
    )
  })
})
