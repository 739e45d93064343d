import type { Design } from '../../model/design'
import { byOne, feeding } from '../remedies'
import { type Switch, switchesOf } from '../../power/switching'
import { type CheckContext, type Reported, type Rule, report, signalOfPart } from '../context'
import { type ForeignEnd, foreignEnd } from '../foreign'

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
        const said =
          a !== null && b !== null && a.partId === b.partId && a.pair === b.pair ? across(design, s, it) : inThe(s, it)
        return said
          ? [
              report(`${s.partId}.${s.terminal.id}`, {
                partId: s.partId,
                signalId: signalOfPart(design, s.partId),
                ...said,
              }),
            ]
          : []
      })
  },
}

type Said = Pick<Reported, 'severity' | 'sentence' | 'remedies'> | null
const protects = (it: ForeignEnd) => it.role === 'safety' || it.role === 'stop'

/** A contact that joins the two ends of one pair. */
function across(design: Design, s: Switch, it: ForeignEnd): Said {
  const off = [feeding(`Take ${s.terminal.label} off`, { partId: s.partId, terminal: s.terminal.id }, null)]
  const lies = `lies across ${it.label} ${it.name}`
  if (protects(it))
    return {
      severity: 'stop',
      sentence: `${s.part.label} ${lies}: it can bridge what protects people. Never; the node may only listen to a contact of its own.`,
      remedies: off,
    }
  if (s.way === 'opens')
    return {
      severity: 'stop',
      sentence: `${s.part.label} ${s.terminal.label} ${lies}: without power of the node it presses that button for ever.`,
      remedies: off,
    }
  const held = Object.entries(design.signals).find(
    ([, x]) => x.partId === s.partId && kindChannel(s.kind, x.channel)?.access === 'output',
  )
  if (it.role === 'start' && held && held[1].conditioning.pulseS === 0)
    return {
      severity: 'fix',
      sentence: `${s.part.label} plays a finger on ${it.label} ${it.name} and stays on: let “on” be a pulse of a second.`,
      remedies: [byOne('A pulse of 1 s', { kind: 'condition', signalId: held[0], set: { pulseS: 1 } })],
    }
  return {
    severity: 'note',
    sentence: `${s.part.label} ${lies} and rests open: without power of the node the button on the wall works as before.`,
  }
}

/** A contact in the run of something that protects. */
function inThe(s: Switch, it: ForeignEnd): Said {
  if (!protects(it)) return null
  const through = `${it.label} ${it.name} goes through ${s.part.label} ${s.terminal.label}: without power of the node it is`
  return s.way === 'closes'
    ? { severity: 'fix', sentence: `${through} open, and the drive stands still.` }
    : { severity: 'note', sentence: `${through} as it was before; the node can only open it.` }
}

const kindChannel = (kind: CheckContext['parts'][number]['kind'], channel: string) =>
  kind.channels.find((c) => c.id === channel)
