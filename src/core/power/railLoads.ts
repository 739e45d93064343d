import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { supplyCurrents } from '../catalog/part'
import { type Design, inOrder } from '../model/design'
import { remembered } from '../model/remembered'
import { type FeedRail, railsOf } from './rails'

export interface RailLoad {
  label: string
  partId: string | null
  idleA: number
  /** Highest current while it works. */
  peakA: number
  /** Current of its first moment: never less than the peak. */
  startA: number
}
export interface LoadedRail {
  rail: FeedRail
  loads: RailLoad[]
  peakA: number
  idleA: number
  /** All at work, and the one with the largest start starting. */
  startA: number
  /**
   * How much of the radio's burst reaches this rail: 1 on the board's own, less or more behind converters, 0 where none
   * does.
   */
  radioShare: number
}

/** The board's regulated rail, and how well a switching converter turns its input into its output. */
const LOGIC_RAIL = '3V3'
const EFFICIENCY = 0.85

/**
 * What hangs on every rail at the peaks that can come together, A: all parts, the chip with its radio, and what
 * regulators and converters pass on. Linear: I_in = I_out; switching: I_in = V_out · I_out / (η · V_in,min).
 */
export const railLoads: (design: Design, board: Board, catalog: Catalog) => LoadedRail[] = remembered(
  (design, board, catalog) => {
    const rails = railsOf(design, board, catalog)
    const loads = new Map<string, RailLoad[]>(rails.map((r) => [r.id, []]))
    for (const { id, value: part } of inOrder(design.parts)) {
      const kind = catalog.parts[part.kind]
      if (!kind || kind.terminals.some((t) => t.role === 'source')) continue
      for (const t of kind.terminals)
        if (t.role === 'supply')
          loads
            .get(part.feeds[t.id] ?? '')
            ?.push({ label: `${part.label} ${t.label}`, partId: id, ...supplyCurrents(t, part.settings, kind) })
    }
    loads.get(LOGIC_RAIL)?.push({
      label: 'chip and radio',
      partId: null,
      peakA: board.currents.radioPeakA,
      startA: board.currents.radioPeakA,
      idleA: board.currents.activeA,
    })
    const done = new Map<string, LoadedRail>()
    const settle = (id: string, above: readonly string[]): LoadedRail | undefined => {
      const rail = rails.find((r) => r.id === id)
      const known = done.get(id)
      if (known || !rail || above.includes(id)) return known
      const own = [...(loads.get(id) ?? [])]
      let radioShare = id === LOGIC_RAIL ? 1 : 0
      const pass = (
        label: string,
        partId: string | null,
        from: LoadedRail | undefined,
        turns: (a: number, outV: number) => number,
      ) => {
        if (!from || from.loads.length === 0) return
        radioShare += turns(from.radioShare, from.rail.max)
        own.push({
          label,
          partId,
          peakA: turns(from.peakA, from.rail.max),
          idleA: turns(from.idleA, from.rail.max),
          startA: turns(from.startA, from.rail.max),
        })
      }
      const switching = (a: number, outV: number) => (a * outV) / (EFFICIENCY * Math.max(rail.min, 0.1))
      if (id === board.supply.rail)
        pass(
          'the board’s regulator',
          null,
          settle(LOGIC_RAIL, [...above, id]),
          board.regulator.kind === 'linear' ? (a) => a : switching,
        )
      // VBUS of a board that carries USB on through its own diode.
      if (board.rails.some((r) => r.id === id && r.usbOnly) && design.boardFeed === null)
        pass('the board', null, settle(board.supply.rail, [...above, id]), (a) => a)
      for (const behind of rails)
        if (behind.through === id) pass(behind.name, behind.partId, settle(behind.id, [...above, id]), (a) => a)
      if (id === design.boardFeed) pass('the board', null, settle(board.supply.rail, [...above, id]), (a) => a)
      for (const { id: partId, value: part } of inOrder(design.parts)) {
        const kind = catalog.parts[part.kind]
        const source = kind?.terminals.find((t) => t.role === 'source')
        if (!source || !kind?.terminals.some((t) => t.role === 'supply' && part.feeds[t.id] === id)) continue
        pass(part.label, partId, settle(`${partId}.${source.id}`, [...above, id]), switching)
      }
      const peakA = own.reduce((s, l) => s + l.peakA, 0)
      const loaded = {
        rail,
        loads: own,
        peakA,
        idleA: own.reduce((s, l) => s + l.idleA, 0),
        startA: peakA + Math.max(0, ...own.map((l) => l.startA - l.peakA)),
        radioShare,
      }
      done.set(id, loaded)
      return loaded
    }
    return rails.flatMap((r) => settle(r.id, []) ?? [])
  },
)
