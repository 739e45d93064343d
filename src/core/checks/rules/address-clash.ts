import { byOne } from '../remedies'
import { addressOf, addressWords } from '../../model/address'
import { inOrder } from '../../model/design'
import { busOf } from '../../lines/lines'
import { report, type CheckContext, type Rule, signalOfPart } from '../context'
import type { Remedy } from '../finding'

interface OnBus {
  id: string
  label: string
  bus: string
  address: number
}

/** Two parts of one address on one bus answer together, and neither is understood. */
export const addressClash: Rule = {
  id: 'address-clash',
  severity: 'fix',
  when: 'Two parts on one I²C bus have the same address, or one behind a multiplexer has that of one in front of it.',
  source:
    'The bus specification: an address selects one device; data sheets of the parts for the addresses they can have.',
  check: (context) => {
    const { design, catalog } = context
    const parts = inOrder(design.parts).flatMap(({ id, value: part }): OnBus[] => {
      const kind = catalog.parts[part.kind]
      return kind?.i2c ? [{ id, label: part.label, bus: busOf(part, 'i2c'), address: addressOf(part, kind) }] : []
    })
    /** A branch is joined to the bus of its multiplexer while it is open: who is behind it hears what is in front. */
    const joins = (branch: string, trunk: string): boolean => {
      const front = branch.includes(':') ? parts.find((m) => m.id === branch.split(':')[0])?.bus : undefined
      return front !== undefined && (front === trunk || joins(front, trunk))
    }
    return parts.flatMap((p, i) => {
      const other = parts.find(
        (o, n) =>
          o.address === p.address && (n < i ? o.bus === p.bus || joins(p.bus, o.bus) || joins(o.bus, p.bus) : false),
      )
      if (!other) return []
      return [
        report(p.id, {
          bench: 'parts',
          signalId: signalOfPart(design, p.id),
          partId: p.id,
          sentence: `${p.label} and ${other.label} are both ${addressWords(p.address)} on one bus: they answer together.`,
          remedies: remedies(context, p, parts),
        }),
      ]
    })
  },
}

function remedies({ design, catalog, board }: CheckContext, part: OnBus, parts: OnBus[]): Remedy[] {
  const kind = catalog.parts[design.parts[part.id]?.kind ?? '']
  const taken = parts.filter((o) => o.id !== part.id).map((o) => o.address)
  const free = kind?.i2c?.addresses.find((a) => !taken.includes(a))
  const out: Remedy[] = []
  if (free !== undefined)
    out.push(
      byOne(`Set ${part.label} to ${addressWords(free)}`, {
        kind: 'set-part',
        partId: part.id,
        setting: 'address',
        value: addressWords(free),
      }),
    )
  const { count, routing } = board.peripherals.i2c
  const used = new Set(parts.map((o) => o.bus).filter((b) => !b.includes(':')))
  const next = ['a', 'b', 'c', 'd'].find((b) => !used.has(b))
  if (next !== undefined && (routing === 'software' || used.size < count))
    out.push(byOne(`Second bus for ${part.label}`, { kind: 'set-bus', partId: part.id, bus: next }))
  // Who stays in front of a multiplexer is heard behind it as well: all of this address go behind, each behind a branch
  // of its own.
  const alike = parts
    .filter((o) => o.address === part.address && (o.id === part.id || !o.bus.includes(':')))
    .map((o) => o.id)
  const behind = (mux: string, free: readonly number[]) =>
    alike.map((id, n) => ({ kind: 'set-bus' as const, partId: id, bus: `${mux}:${free[n] ?? 0}` }))
  const mux = inOrder(design.parts).find(({ value }) => value.kind === 'mux-i2c-8')
  if (mux) {
    const branches = [0, 1, 2, 3, 4, 5, 6, 7].filter(
      (n) => !Object.values(design.parts).some((q) => q.bus === `${mux.id}:${n}`),
    )
    // A multiplexer that clashes itself sits behind none of its own branches.
    if (branches.length >= alike.length && !alike.includes(mux.id)) {
      const words = branches.slice(0, alike.length).join(' and ')
      out.push({
        label: `${alike.length > 1 ? 'Branches' : 'Branch'} ${words} of ${mux.value.label}`,
        edits: behind(mux.id, branches),
      })
    }
  } else if (free === undefined && catalog.parts['mux-i2c-8']) {
    const id = `mx${part.id}`.slice(0, 24)
    out.push({
      label: 'Add a multiplexer',
      edits: [
        { kind: 'add-part', partId: id, part: 'mux-i2c-8', label: 'Multiplexer', signals: [] },
        ...behind(id, [0, 1, 2, 3, 4, 5, 6, 7]),
      ],
    })
  }
  return out
}
