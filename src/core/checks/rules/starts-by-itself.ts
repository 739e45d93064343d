import { byOne } from '../remedies'
import { channelOf } from '../../publish/channelOf'
import { inOrder } from '../../model/design'
import { report, type Rule } from '../context'

/** What heats, moves or pumps and comes on with the power: after every power cut, with nobody there. */
export const startsByItself: Rule = {
  id: 'starts-by-itself',
  severity: 'fix',
  when: 'An output that heats, moves or pumps is on at power-up, or as it was before.',
  source:
    'Unexpected start-up after the return of power is to be prevented (ISO 14118, in short); what comes back by itself needs a guard or a person.',
  check: ({ design, catalog, lines }) =>
    inOrder(design.signals).flatMap(({ id, value: signal }) => {
      const { atStart } = signal.conditioning
      const channel = channelOf(design, catalog, signal)
      const hazard = lines.some(
        (l) =>
          l.terminal.hazard &&
          l.members.some((m) => m.partId === signal.partId && channel?.lines.includes(m.terminal.id)),
      )
      if (channel?.access !== 'output' || atStart === 'off' || !hazard) return []
      const guarded = Object.values(design.guards).some((g) => g.kind === 'needs' && g.output === id)
      const input = atStart === 'opposite' ? 'takes the opposite of its input' : 'takes the state of its input'
      const otherwise = atStart === 'last' ? 'comes back as it was' : input
      return [
        report(id, {
          severity: guarded ? 'note' : 'fix',
          bench: 'program',
          signalId: id,
          partId: signal.partId,
          sentence: `${signal.name} ${atStart === 'on' ? 'goes on' : otherwise} whenever power returns, with nobody there${guarded ? '; its guard stands before that' : ''}.`,
          remedies: [byOne('Off at power-up', { kind: 'condition', signalId: id, set: { atStart: 'off' } })],
        }),
      ]
    }),
}
