import { carriesSenders, saysCodes } from '../../catalog/codesFit'
import { report, type Rule, signalOfPart } from '../context'

/** Senders that name this node as a receiver of theirs, and it cannot be one. */
export const sendersNotCarried: Rule = {
  id: 'senders-not-carried',
  severity: 'fix',
  when: 'A sender names a node as its receiver that has no receiver, or a board without the memory to understand codes.',
  source: 'The heap bench: with what decodes beside a receiver 45 KiB are needed, the smallest class has 36 free.',
  check: ({ around, board, parts }) => {
    const names = around?.air?.senders.map((s) => s.slug) ?? []
    if (names.length === 0) return []
    const all = names.length > 5 ? `${names.slice(0, 5).join(', ')} and ${names.length - 5} more` : names.join(', ')
    const ears = parts.some(({ kind }) => kind.channels.some((c) => c.driver === 'radio'))
    if (ears && carriesSenders(board)) return []
    const sentence = ears
      ? `${all} ${names.length === 1 ? 'names' : 'name'} this node as receiver, and this board has no memory to understand codes beside a receiver: it passes them on raw, and nobody speaks for them here. Another board carries them, or take the node out of their receivers at Air.`
      : `${all} ${names.length === 1 ? 'names' : 'name'} this node as receiver, and it has none: add a receiver at Parts, or take the node out of their receivers at Air.`
    return [report('air', { bench: 'parts', sentence })]
  },
}

/** A transmitter at a board that has no room for what says codes. */
export const cannotSay: Rule = {
  id: 'cannot-say',
  severity: 'stop',
  when: 'A transmitter of radio codes is at a board without the memory to say them.',
  source: 'The heap bench: the fullest node of the smallest class has 3.9 KiB left, and what says codes takes more.',
  check: ({ design, board, parts }) =>
    saysCodes(board)
      ? []
      : parts
          .filter(({ kind }) => kind.channels.some((c) => c.driver === 'transmitter'))
          .map(({ id, part }) =>
            report(id, {
              bench: 'parts',
              partId: id,
              signalId: signalOfPart(design, id),
              sentence: `${part.label}: the runtime of this board has no room for what says codes. Any other class says them.`,
            }),
          ),
}
