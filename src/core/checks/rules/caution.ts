import { cautionsOf } from '../../catalog/part'
import { inOrder } from '../../model/design'
import { switchesOf } from '../../power/switching'
import { report, type Rule } from '../context'

/** Cautions of a part as it is set: they stand until a person acknowledges them by name in the logbook. */
export const caution: Rule = {
  id: 'caution',
  severity: 'stop',
  when: 'A part, as it is set, can flood, burn, crush or shock.',
  source: 'Common practice for the load; local codes and licensed practice come first.',
  check: ({ design, catalog }) =>
    inOrder(design.parts).flatMap(({ id, value: part }) => {
      // Where the load itself is in the design, its own caution stands for both.
      const joined = switchesOf(design, catalog)
        .filter((s) => s.partId === id)
        .flatMap((s) => s.loads.flatMap((l) => catalog.parts[design.parts[l.partId ?? '']?.kind ?? '']?.cautions ?? []))
      const kind = catalog.parts[part.kind]
      const mine = (kind ? cautionsOf(kind, part.settings) : []).filter(
        ({ caution: c }) => !joined.some((j) => j.id === c.id && j.when === null),
      )
      return mine.map(({ caution: c, choice }) =>
        report(`${c.id}:${id}`, {
          bench: 'parts',
          signalId: inOrder(design.signals).find(({ value: s }) => s.partId === id)?.id ?? null,
          partId: id,
          sentence: `${part.label}${choice ? `, ${choice.label}` : ''}: read “${c.title}” and put your name to it.`,
          caution: { title: c.title, text: c.text, privacy: c.id === 'privacy' },
        }),
      )
    }),
}
