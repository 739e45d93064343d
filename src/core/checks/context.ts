import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { inOrder, type Design } from '../design/design'
import { type PlanLine, planLines } from '../pins/lines'
import type { Finding, Severity } from './finding'

export interface CheckContext { design: Design; catalog: Catalog; board: Board; lines: PlanLine[] }

export interface Rule {
  id: string
  severity: Severity
  /** When it applies, one sentence, for the page that lists all rules. */
  when: string
  source: string
  check: (context: CheckContext) => Finding[]
}

export function checkContext(design: Design, catalog: Catalog): CheckContext | null {
  const board = catalog.boards[design.board.id]
  return board ? { design, catalog, board, lines: planLines(design, catalog) } : null
}

/** The first signal a line serves: findings about a line are shown on that thread. */
export function signalOfLine(design: Design, line: PlanLine): string | null {
  return inOrder(design.signals).find(({ value: s }) => line.members.some((m) => s.partId === m.partId && m.channels.some((c) => c.id === s.channel)))?.id ?? null
}

/** The first signal of a part. */
export function signalOfPart(design: Design, partId: string): string | null {
  return inOrder(design.signals).find(({ value: s }) => s.partId === partId)?.id ?? null
}

/** `R1`, `R2` …: the lowest resistor names not in use. */
export function freeResistorNames(design: Design): [string, string] {
  const used = Object.values(design.added).flatMap((c): string[] => [...c.names])
  const free: string[] = []
  for (let n = 1; free.length < 2; n++) if (!used.includes(`R${n}`)) free.push(`R${n}`)
  return [free[0] ?? 'R1', free[1] ?? 'R2']
}

/** A short id for a component a remedy adds: the same design gives the same remedy. */
export function componentIdFor(line: string, prefix: string): string {
  return `${prefix}${line.replace(/[^a-z0-9]/g, '')}`.slice(0, 24)
}
