import { byOne } from '../remedies'
import { channelOf } from '../../publish/channelOf'
import { inOrder } from '../../model/design'
import { report, type Rule } from '../context'

/** A node that sleeps switches its outputs off and hears no command and no press until it wakes. */
export const sleepsWithOutputs: Rule = {
  id: 'sleeps-with-outputs',
  severity: 'fix',
  when: 'A node that sleeps has outputs, or presses that do not end its sleep.',
  source: 'Deep sleep ends the program: pins are released, and nothing listens until the next waking.',
  check: ({ design, catalog }) => {
    const { sleep } = design
    if (!sleep) return []
    const deaf = inOrder(design.signals).flatMap(({ id, value }) => {
      const channel = channelOf(design, catalog, value)
      const wakes = design.parts[value.partId]?.settings.wakes === 'yes'
      return channel?.access === 'output' || (channel?.access === 'event' && !wakes)
        ? [{ id, value, output: channel.access === 'output' }]
        : []
    })
    const [first] = deaf
    if (!first) return []
    return [
      report('node', {
        bench: 'program',
        signalId: first.id,
        partId: first.value.partId,
        sentence: `${deaf.map((d) => d.value.name).join(', ')}: dead while the node sleeps, up to ${sleep.everyS} s; it hears a command only in the ${sleep.listenS} s after each waking.`,
        remedies: [byOne('Do not sleep', { kind: 'sleep', everyS: null })],
      }),
    ]
  },
}
