import { byOne } from '../remedies'
import { traitsOf } from '../../catalog/drivers'
import { meansOf } from '../../catalog/part'
import { inOrder } from '../../model/design'
import { worksOf } from '../../power/switching'
import { channelOf } from '../../publish/channelOf'
import { type CheckContext, report, type Rule } from '../context'
import type { Remedy } from '../finding'

const SOURCE =
  'What heats, moves or pumps needs a limit that works without network, controller or person; the node ends it by itself.'

interface Hazard {
  id: string
  name: string
  partId: string
  longestOnS: number
  pulseS: number
  most: number | null
  loads: string
  signal: boolean
}

/** Outputs that move, heat or pump something, or that something of theirs stands only for so long. */
function hazards({ design, catalog, lines }: CheckContext): Hazard[] {
  return inOrder(design.signals).flatMap(({ id, value }): Hazard[] => {
    const channel = channelOf(design, catalog, value)
    const part = design.parts[value.partId]
    const kind = catalog.parts[part?.kind ?? '']
    if (channel?.access !== 'output' || !part || !kind || !traitsOf(channel.driver).limited) return []
    const drives = lines.some(
      (l) =>
        l.terminal.hazard && l.members.some((m) => m.partId === value.partId && channel.lines.includes(m.terminal.id)),
    )
    const loads = worksOf(design, catalog, value.partId)
    // Where no setting says what it works, the part itself is the hazard.
    const unsaid =
      drives && loads.length === 0 && !kind.settings.some((s) => 'choices' in s && s.choices.some((c) => c.means?.load))
    const most = Math.min(...loads.flatMap((l) => l.longestOnS ?? []))
    if (!unsaid && !loads.some((l) => l.moves) && most === Infinity) return []
    return [
      {
        id,
        name: value.name,
        partId: value.partId,
        longestOnS: value.conditioning.longestOnS,
        pulseS: value.conditioning.pulseS,
        most: most === Infinity ? null : most,
        loads: loads.map((l) => l.label).join(', ') || part.label,
        signal: meansOf(kind, part.settings).load?.signal === true,
      },
    ]
  })
}

/** Something that heats, moves or pumps with no end to it. */
export const noLongestTime: Rule = {
  id: 'no-longest-time',
  severity: 'stop',
  when: 'An output that heats, moves or pumps has neither a longest on-time nor a pulse length, or a longer one than its load stands.',
  source: SOURCE,
  check: (context) =>
    hazards(context).flatMap((h) => {
      const limitS = h.pulseS > 0 ? h.pulseS : h.longestOnS
      const over = limitS === 0 || (h.most !== null && limitS > h.most)
      if (!over) return []
      const set = (label: string, longestOnS: number): Remedy =>
        byOne(label, { kind: 'condition', signalId: h.id, set: { longestOnS } })
      const pulse: Remedy[] = h.signal
        ? [byOne('A pulse of 1 s', { kind: 'condition', signalId: h.id, set: { pulseS: 1 } })]
        : []
      const remedies =
        h.most !== null
          ? [set(`At most ${h.most} s`, h.most)]
          : [...pulse, set('At most 90 s', 90), set('At most 10 minutes', 600), set('At most 4 hours', 14_400)]
      return [
        report(h.id, {
          bench: 'program',
          signalId: h.id,
          partId: h.partId,
          remedies,
          sentence:
            limitS === 0
              ? `${h.name} works ${h.loads} and has no longest on-time: a lost command leaves it on for ever.`
              : `${h.name} may stay on for ${limitS} s; ${h.loads} stands ${h.most} s at a time.`,
        }),
      ]
    }),
}
