import { pinsOf } from '../../catalog/board'
import { lineName } from '../../lines/lines'
import { about, pinAt, report, type Rule } from '../context'

/** A pin that some boards of the class keep for themselves. */
export const pinAsks: Rule = {
  id: 'pin-asks',
  severity: 'note',
  when: 'A line is on a pin that some boards of this class use for their memory or their lamp: look at the one in hand.',
  source: 'Module data sheets of the class.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const pin = pinAt(context, line)
      const quirk = pin?.quirks.find((q) => q.ask !== undefined)
      if (!pin || !quirk) return []
      const alike = pinsOf(context.board)
        .filter((p) => p.quirks.some((q) => q.ask === quirk.ask))
        .map((p) => p.label)
      return [
        report(line.key, {
          bench: 'pins',
          ...about(context.design, line),
          source: context.board.source,
          sentence: `${lineName(line)} is on ${pin.label}: find out ${quirk.ask}. ${quirk.reason}`,
          remedies: [
            {
              label: `Keep ${alike.join(', ')} free`,
              edits: alike
                .filter((l) => context.design.keptFree[l] === undefined)
                .flatMap((l) => [
                  ...Object.entries(context.design.locks).flatMap(([key, label]) =>
                    label === l ? [{ kind: 'unlock' as const, line: key }] : [],
                  ),
                  { kind: 'keep-free' as const, pin: l, free: true },
                ]),
            },
          ],
        }),
      ]
    }),
}
