import { byOne } from '../remedies'
import { alike, PROPOSED } from '../../palette/insulation'
import { report, type Rule } from '../context'

/** Wires on the bench that the design no longer wants. */
export const wireLeftOver: Rule = {
  id: 'wire-left-over',
  severity: 'fix',
  when: 'A wire was made and the design no longer has it.',
  source: 'The design itself.',
  check: ({ design, wiring }) => {
    const wanted = new Set(wiring.wires.map((w) => w.key))
    return Object.entries(design.wires).flatMap(([key, wire]) =>
      wanted.has(key) || !wire.made
        ? []
        : [
            report(key, {
              sentence: `W${wire.number} (${key
                .split('|')
                .map((e) => e.replace(/^\w+:/, ''))
                .join(' – ')}) is made, and the design no longer has it: take it out.`,
              remedies: [byOne(`W${wire.number} is out`, { kind: 'mark-wire', wire: key, made: false })],
            }),
          ],
    )
  },
}

/** Neighbouring wires of one part that look alike. */
export const lookAlike: Rule = {
  id: 'look-alike',
  severity: 'note',
  when: 'Two wires of one part have insulation that looks alike, by somebody’s choice, or the colours of protective earth are used for something else.',
  source:
    'Colours that are taken for one another by lamp light or with a colour deficiency; green-yellow is for protective earth alone.',
  check: ({ design, wiring }) => {
    const byPart = new Map<string, { key: string; insulation: string; number: number; chosen: boolean }[]>()
    const found = Object.entries(design.wires).flatMap(([key, w]) =>
      w.insulation === 'green-yellow'
        ? [
            report(key, {
              severity: 'stop',
              sentence: `W${w.number} is green-yellow: that is for protective earth alone.`,
              source: 'Practice everywhere: green-yellow is protective earth.',
              remedies: [byOne('Make it grey', { kind: 'set-wire', wire: key, set: { insulation: 'grey' } })],
            }),
          ]
        : [],
    )
    for (const w of wiring.wires) {
      const end = [w.from, w.to].find((e) => e.kind === 'part')
      const stored = design.wires[w.key]
      if (!end || !stored) continue
      byPart.set(end.partId, [
        ...(byPart.get(end.partId) ?? []),
        { key: w.key, insulation: stored.insulation, number: stored.number, chosen: stored.chosen === true },
      ])
    }
    for (const [partId, wires] of byPart) {
      const pair = wires
        .flatMap((a, i) => wires.slice(i + 1).map((b) => ({ a, b })))
        .find(({ a, b }) => (a.chosen || b.chosen) && alike(a.insulation, b.insulation) && a.insulation !== 'black')
      if (!pair) continue
      const used = wires.map((w) => w.insulation)
      const free = PROPOSED.find((c) => !used.some((u) => alike(u, c)))
      found.push(
        report(partId, {
          partId,
          sentence: `W${pair.a.number} ${pair.a.insulation} and W${pair.b.number} ${pair.b.insulation} at ${design.parts[partId]?.label ?? 'a part'} look alike.`,
          source: 'Colours that are taken for one another by lamp light or with a colour deficiency.',
          remedies: free
            ? [
                byOne(`Make W${pair.b.number} ${free}`, {
                  kind: 'set-wire',
                  wire: pair.b.key,
                  set: { insulation: free },
                }),
              ]
            : [],
        }),
      )
    }
    return found
  },
}
