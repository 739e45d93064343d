import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../model/design'
import { allLines, type PlanLine, planLines } from '../lines/lines'
import type { OpenCalculation } from '../calculations/writeBack'
import { type BoardPin, pinByLabel } from '../catalog/board'
import type { PartKind } from '../catalog/part'
import type { DesignPart } from '../model/design'
import { type FeedRail, railsOf, railSuits } from '../power/rails'
import type { Surroundings } from '../surroundings/surroundings'
import type { Wiring } from '../wiring/netlist'
import { wiringOf } from '../wiring/netlist'
import type { WorkingStep } from '../working/working'
import type { Finding, Remedy, Severity } from './finding'

/**
 * A design as rules look at it. `wiring` and `rails` are worked out once for all of them; `analogLines` are those that
 * are measured, at a pin or at a converter.
 */
export interface CheckContext {
  design: Design
  catalog: Catalog
  board: Board
  lines: PlanLine[]
  analogLines: PlanLine[]
  rails: FeedRail[]
  wiring: Wiring
  parts: { id: string; part: DesignPart; kind: PartKind }[]
  /** What the shop says of its place and network; null where a design is looked at by itself. */
  around: Surroundings | null
}

export interface Rule {
  id: string
  severity: Severity
  /** When it applies, one sentence, for the page that lists all rules. */
  when: string
  source: string
  check: (context: CheckContext) => Reported[]
}

export function checkContext(
  design: Design,
  catalog: Catalog,
  wiring?: Wiring,
  around: Surroundings | null = null,
): CheckContext | null {
  const board = catalog.boards[design.board.id]
  if (!board) return null
  const parts = inOrder(design.parts).flatMap(({ id, value: part }) => {
    const kind = catalog.parts[part.kind]
    return kind ? [{ id, part, kind }] : []
  })
  return {
    design,
    catalog,
    board,
    lines: planLines(design, catalog),
    analogLines: allLines(design, catalog).filter(
      (l) => l.terminal.needs === 'analog' && (l.hosted !== null || design.plan.pins[l.key] !== undefined),
    ),
    rails: railsOf(design, board, catalog),
    wiring: wiring ?? wiringOf(design, catalog),
    parts,
    around,
  }
}

interface Report {
  sentence: string
  /** The rule's own unless said. */
  severity?: Severity
  /** The rule's own unless said. */
  source?: string
  bench?: Finding['bench']
  signalId?: string | null
  partId?: string | null
  steps?: WorkingStep[]
  remedies?: Remedy[]
  calculation?: OpenCalculation
  caution?: Finding['caution']
}

/** What a rule reports about one subject: a line, a part, a rail, a wire. Its rule completes it to a finding. */
export interface Reported extends Report {
  subject: string
}

export const report = (subject: string, what: Report): Reported => ({ subject, ...what })

/** What a rule reports, with what all its reports have in common. */
export function completed(rule: Rule, { subject, steps, source, ...reported }: Reported): Finding {
  return {
    rule: rule.id,
    severity: rule.severity,
    key: `${rule.id}:${subject}`,
    bench: 'wires',
    signalId: null,
    partId: null,
    working: (steps && { steps, source: source ?? rule.source }) || null,
    remedies: [],
    caution: null,
    ...reported,
  }
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

/**
 * Rails a supply terminal of a part could well be fed from: direct current, proven isolated, not behind a contact, not
 * its own; lowest first.
 */
export function feedable(
  { rails, design }: CheckContext,
  partId: string,
  terminal: { minV: number; maxV: number; ac?: boolean | undefined },
): FeedRail[] {
  const behind = (r: FeedRail, depth = 0): boolean =>
    r.partId === partId ||
    (r.partId !== null &&
      depth < 8 &&
      Object.values(design.parts[r.partId]?.feeds ?? {}).some((f) => {
        const from = rails.find((x) => x.id === f)
        return from ? behind(from, depth + 1) : f.startsWith(`${partId}.`)
      }))
  return [...rails]
    .sort((a, b) => a.max - b.max)
    .filter(
      (r) =>
        (!r.ac || terminal.ac === true) &&
        r.isolated &&
        r.through === null &&
        railSuits(r, terminal) === 'well' &&
        !behind(r),
    )
}

/** The first signal a line serves: findings about a line are shown on that thread. */
export function signalOfLine(design: Design, line: PlanLine): string | null {
  return (
    inOrder(design.signals).find(({ value: s }) =>
      line.members.some((m) => s.partId === m.partId && m.channels.some((c) => c.id === s.channel)),
    )?.id ?? null
  )
}

/** The first signal of a part. */
export function signalOfPart(design: Design, partId: string): string | null {
  return inOrder(design.signals).find(({ value: s }) => s.partId === partId)?.id ?? null
}

export { componentIdOf } from '../calculations/writeBack'
export { freeNames } from '../wiring/componentNames'
