import type { Cell } from '../../catalog/part'
import { report, type Rule } from '../context'
import { byOne } from '../remedies'

/** Share of its capacity in an hour a lithium cell takes unless its maker states more. */
const USUAL_SHARE = 0.5

/** What a charging board gives, against the cell behind it. */
export const chargeRate: Rule = {
  id: 'charge-rate',
  severity: 'stop',
  when: 'A charging board gives its cell more than half the capacity an hour, or charges a chemistry it was not made for.',
  source: 'Usual limit of lithium-ion cells where the maker states no other: half the capacity in amperes.',
  check: ({ parts, catalog, design }) =>
    parts.flatMap(({ id, part, kind }) => {
      if (!kind.charger) return []
      const feed = kind.terminals.find((t) => t.role === 'supply')
      const [cellId = ''] = (feed && part.feeds[feed.id]?.split('.')) ?? []
      const held = design.parts[cellId]
      const cell: Cell | undefined = catalog.parts[held?.kind ?? '']?.cell
      if (!held || !cell) return []
      const at = { bench: 'parts' as const, partId: id, signalId: null }
      if (!cell.rechargeable || cell.chemistry !== 'lithium-ion')
        return [
          report(id, {
            ...at,
            sentence: `${part.label} charges to 4.2 V, and ${held.label} is ${cell.rechargeable ? `${cell.chemistry.replaceAll('-', ' ')}, which stands less` : 'not to be charged at all: it bursts or burns'}. Take this board out, or put a lithium-ion cell in its place.`,
          }),
        ]
      const capacityAh = cell.capacityAh * Math.max(1, Number(held.settings.parallel ?? 1))
      const rateA = Number(part.settings[kind.charger.rate] ?? 1)
      const most = Math.floor(capacityAh * USUAL_SHARE * 100) / 100
      if (rateA <= most) return []
      return [
        report(id, {
          ...at,
          sentence: `${part.label} charges with ${rateA} A: ${held.label} of ${capacityAh} Ah takes ${most} A unless its maker states more.`,
          remedies: [
            byOne(`Set its resistor for ${most} A`, {
              kind: 'set-part',
              partId: id,
              setting: kind.charger.rate,
              value: most,
            }),
          ],
          steps: [
            { gives: 'I', formula: 'capacity · 0.5 / h', numbers: `${capacityAh} Ah · 0.5`, result: `${most} A` },
          ],
        }),
      ]
    }),
}
