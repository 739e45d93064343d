import { report, type Rule, signalOfPart } from '../context'

/** Shortest pulses of common codes, µs: below 200 few senders go. */
const COMMON_US = 150

/** A receiver of codes at a chip that times edges in its program. */
export const codesTooShort: Rule = {
  id: 'codes-too-short',
  severity: 'note',
  when: 'A receiver of radio codes is at a chip that times edges by a soft interrupt.',
  source:
    'The interpreter’s port for this chip: calls wait in a queue of eight, and are late while the interpreter is busy.',
  check: ({ design, catalog, board, parts }) => {
    const { codeLeastUs } = board.interpreter
    if (codeLeastUs <= COMMON_US) return []
    const better = Object.values(catalog.boards)
      .filter((b) => b.interpreter.codeLeastUs <= COMMON_US)
      .map((b) => b.name)
    return parts
      .filter(({ kind }) => kind.channels.some((c) => c.driver === 'radio'))
      .map(({ id, part }) =>
        report(id, {
          bench: 'parts',
          partId: id,
          signalId: signalOfPart(design, id),
          sentence:
            `${part.label}: this chip tells pulses of ${codeLeastUs} µs and longer; shorter codes reach it in part, and what is lost is counted. ` +
            `Better: ${better.join(', ')}.`,
        }),
      )
  },
}
