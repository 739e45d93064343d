import { byOne, feeding } from '../remedies'
import { switchesOf } from '../../power/switching'
import { type CheckContext, report, type Rule, signalOfPart } from '../context'
import { foreignEnd } from '../foreign'
import type { Remedy } from '../finding'

/**
 * What a contact does in the circuit of a device that was there before, and what is left when the node has no power.
 */
export const passThrough: Rule = {
  id: 'pass-through',
  severity: 'stop',
  when: 'A contact of the node lies in or across the wiring of a drive: what that does when the node has no power, and whether it can bridge something that protects.',
  source:
    'A relay without power rests: its normally open contact is open, its normally closed one closed. What protects may only be opened by others, never bridged.',
  check: (context) => {
    const { design, catalog } = context
    const foreign = (end: string | null) => foreignEnd(design, catalog, end)
    return switchesOf(design, catalog)
      .filter((s) => s.way === 'closes' || s.way === 'opens')
      .flatMap((s) => {
        const [a, b] = [foreign(s.at), foreign(s.commonAt)]
        const it = a ?? b
        if (!it || s.at === null || s.commonAt === null) return []
        const key = `${s.partId}.${s.terminal.id}`
        const say = (severity: 'stop' | 'fix' | 'note', sentence: string, remedies: Remedy[] = []) => [
          report(key, {
            severity,
            bench: 'wires',
            partId: s.partId,
            signalId: signalOfPart(design, s.partId),
            sentence,
            remedies,
          }),
        ]
        const across = a !== null && b !== null && a.partId === b.partId && a.pair === b.pair
        const off: Remedy[] =
          s.at === null
            ? []
            : [feeding(`Take ${s.terminal.label} off`, { partId: s.partId, terminal: s.terminal.id }, null)]
        if (across && (it.role === 'safety' || it.role === 'stop'))
          return say(
            'stop',
            `${s.part.label} lies across ${it.label} ${it.name}: it can bridge what protects people. Never; the node may only listen to a contact of its own.`,
            off,
          )
        if (across && s.way === 'opens')
          return say(
            'stop',
            `${s.part.label} ${s.terminal.label} lies across ${it.label} ${it.name}: without power of the node it presses that button for ever.`,
            off,
          )
        if (!across && (it.role === 'safety' || it.role === 'stop')) {
          return say(
            s.way === 'closes' ? 'fix' : 'note',
            s.way === 'closes'
              ? `${it.label} ${it.name} goes through ${s.part.label} ${s.terminal.label}: without power of the node it is open, and the drive stands still.`
              : `${it.label} ${it.name} goes through ${s.part.label} ${s.terminal.label}: without power of the node it is as it was before; the node can only open it.`,
          )
        }
        const pulse = Object.values(design.signals).find(
          (x) => x.partId === s.partId && kindChannel(s.kind, x.channel)?.access === 'output',
        )
        if (across && it.role === 'start' && pulse && pulse.conditioning.pulseS === 0) {
          const id = Object.keys(design.signals).find((x) => design.signals[x] === pulse) ?? ''
          return say(
            'fix',
            `${s.part.label} plays a finger on ${it.label} ${it.name} and stays on: let “on” be a pulse of a second.`,
            [byOne('A pulse of 1 s', { kind: 'condition', signalId: id, set: { pulseS: 1 } })],
          )
        }
        return across
          ? say(
              'note',
              `${s.part.label} lies across ${it.label} ${it.name} and rests open: without power of the node the button on the wall works as before.`,
            )
          : []
      })
  },
}

const kindChannel = (kind: CheckContext['parts'][number]['kind'], channel: string) =>
  kind.channels.find((c) => c.id === channel)
