import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../design/design'
import { type PlanLine, planLines } from '../pins/lines'
import type { OpenSum } from '../arithmetic/writeBack'
import { type BoardPin, pinByLabel } from '../catalog/board'
import type { PartKind } from '../catalog/part'
import type { DesignPart } from '../design/design'
import { type FeedRail, railsOf } from '../power/rails'
import type { Wiring } from '../wiring/netlist'
import { wiringOf } from '../wiring/netlist'
import type { Finding, Remedy, Severity, WorkingStep } from './finding'

/** A design as rules look at it. `wiring` and `rails` are worked out once for all of them. */
export interface CheckContext { design: Design; catalog: Catalog; board: Board; lines: PlanLine[]; rails: FeedRail[]; wiring: Wiring; parts: { id: string; part: DesignPart; kind: PartKind }[] }

export interface Rule {
  id: string
  severity: Severity
  /** When it applies, one sentence, for the page that lists all rules. */
  when: string
  source: string
  check: (context: CheckContext) => Finding[]
}

export function checkContext(design: Design, catalog: Catalog, wiring?: Wiring): CheckContext | null {
  const board = catalog.boards[design.board.id]
  if (!board) return null
  const parts = inOrder(design.parts).flatMap(({ id, value: part }) => {
    const kind = catalog.parts[part.kind]
    return kind ? [{ id, part, kind }] : []
  })
  return { design, catalog, board, lines: planLines(design, catalog), rails: railsOf(design, board, catalog), wiring: wiring ?? wiringOf(design, catalog), parts }
}

interface Report {
  severity: Severity
  sentence: string
  bench?: Finding['bench']
  signalId?: string | null
  partId?: string | null
  steps?: WorkingStep[]
  source: string
  remedies?: Remedy[]
  sum?: OpenSum
}

/** A finding of a rule about one subject: a line, a part, a rail, a wire. */
export function report(rule: string, subject: string, { bench = 'wires', signalId = null, partId = null, steps, source, remedies = [], ...rest }: Report): Finding {
  return { rule, key: `${rule}:${subject}`, bench, signalId, partId, working: steps && { steps, source } || null, remedies, caution: null, ...rest }
}

/** Report fields that name a line's thread and part. */
export function about(design: Design, line: PlanLine): { signalId: string | null; partId: string } {
  return { signalId: signalOfLine(design, line), partId: line.partId }
}

/** The pin a line has in the accepted plan. */
export function pinAt({ design, board }: CheckContext, line: PlanLine): BoardPin | undefined {
  return pinByLabel(board, design.plan.pins[line.key] ?? '')
}

/** The rail a supply terminal of a part is fed from. */
export function feedOf({ rails }: CheckContext, part: DesignPart, terminal: string | undefined): FeedRail | undefined {
  const id = terminal === undefined ? undefined : part.feeds[terminal]
  return id === undefined ? undefined : rails.find((r) => r.id === id)
}

/** The first signal a line serves: findings about a line are shown on that thread. */
export function signalOfLine(design: Design, line: PlanLine): string | null {
  return inOrder(design.signals).find(({ value: s }) => line.members.some((m) => s.partId === m.partId && m.channels.some((c) => c.id === s.channel)))?.id ?? null
}

/** The first signal of a part. */
export function signalOfPart(design: Design, partId: string): string | null {
  return inOrder(design.signals).find(({ value: s }) => s.partId === partId)?.id ?? null
}

export { componentIdOf } from '../arithmetic/writeBack'
export { freeNames } from '../wiring/componentNames'
