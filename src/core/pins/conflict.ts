import { type Board, type BoardPin, pinsOf } from '../catalog/board'
import type { Design, LineKey } from '../model/design'
import { couplingsOf } from './couplings'
import { judgePin } from './judgePin'
import { lineName, type PlanLine } from '../lines/lines'
import { NEVER } from './lsap'
import { busVariants, inVariant, shortage } from './resources'
import { solve } from './solve'

export type ConflictMember =
  | { kind: 'line'; line: LineKey; words: string }
  | { kind: 'lock'; line: LineKey; pin: string; words: string }
  | { kind: 'kept-free'; pin: string; words: string }
  | { kind: 'wakes'; line: LineKey; partId: string; part: string; words: string }

/** Wishes that cannot be met together. Irreducible: without any one of them the rest can be planned. */
export interface Conflict {
  members: ConflictMember[]
  /** One sentence: what there is too little of. */
  words: string
}

/**
 * Irreducible conflicts, one after the other: each is found by dropping wishes one at a time and keeping those whose
 * absence frees the rest; its lines are then set aside and the search goes on, until what remains can be planned.
 */
export function findConflicts(design: Design, board: Board, lines: PlanLine[]): Conflict[] {
  const judge = new Feasibility(board, lines)
  const conflicts: (Conflict & { trouble: string | null; lines: number })[] = []
  let rest = lines
  while (rest.length > 0) {
    // More lines than pins cannot be: one more than there are pins is conflict enough, and the rest has the same
    // trouble.
    const crowded = rest.length > judge.pinCount
    const all = wishMembers(design, crowded ? rest.slice(0, judge.pinCount + 1) : rest)
    if (!crowded && judge.feasible(all)) break
    let members = all
    for (const member of all) {
      const without = members.filter((m) => m !== member)
      if (!judge.feasible(without)) members = without
    }
    const gone = new Set(members.flatMap((m) => (m.kind === 'line' ? [m.line] : [])))
    const trouble = members.every((m) => m.kind === 'line') ? judge.trouble(members) : null
    const told = trouble === null ? undefined : conflicts.find((c) => c.trouble === trouble)
    const tooMany =
      members.length > judge.pinCount
        ? `${rest.length} lines need a pin, and this board has ${judge.pinCount}.`
        : judge.words(members)
    if (told) told.lines += gone.size
    else
      conflicts.push({
        members,
        words: !crowded ? judge.words(members) : tooMany,
        trouble,
        lines: crowded && members.length <= judge.pinCount ? rest.length : gone.size,
      })
    if (gone.size === 0) break
    if (crowded) break
    rest = rest.filter((l) => !gone.has(l.key))
  }
  // One shortage is told once, with all who wanted of it.
  return conflicts.map(({ members, words, trouble, lines: n }) => ({
    members,
    words: trouble !== null && n > members.length ? judge.words(members, Math.max(n, judge.wanting(members))) : words,
  }))
}

function wishMembers(design: Design, lines: PlanLine[]): ConflictMember[] {
  const byKey = new Map(lines.map((l) => [l.key, l]))
  const locks = Object.entries(design.locks).flatMap(([line, pin]): ConflictMember[] => {
    const of = byKey.get(line)
    return of ? [{ kind: 'lock', line, pin, words: `${lineName(of)} is locked to ${pin}` }] : []
  })
  const free = Object.keys(design.keptFree).map((pin): ConflictMember => ({
    kind: 'kept-free',
    pin,
    words: `${pin} is kept free`,
  }))
  const waking = lines.flatMap((l): ConflictMember[] =>
    l.wakes
      ? [
          {
            kind: 'wakes',
            line: l.key,
            partId: l.partId,
            part: l.part.label,
            words: `${l.part.label} is to end the sleep`,
          },
        ]
      : [],
  )
  const wanted = lines.map((l): ConflictMember => ({ kind: 'line', line: l.key, words: `${lineName(l)} needs a pin` }))
  // What is easiest to give up is tried first, so that it leaves the conflict first when it does not matter.
  return [...free, ...locks, ...waking, ...wanted]
}

/** Judges subsets of the wishes; what a line may have is worked out once. */
class Feasibility {
  private readonly pins: BoardPin[]
  private readonly fits = new Map<string, boolean[]>()

  constructor(
    private readonly board: Board,
    private readonly lines: PlanLine[],
  ) {
    this.pins = pinsOf(board)
  }

  get pinCount(): number {
    return this.pins.length
  }

  /** What there is too little of, alike for every conflict about the same. */
  trouble(members: readonly ConflictMember[]): string {
    const lines = this.wanted(members)
    const short = shortage(this.board, lines)
    const kinds = [...new Set(lines.map((l) => `${l.terminal.needs} ${l.bus?.kind ?? ''}`))].sort().join()
    return short
      ? `short ${kinds}`
      : this.pins.flatMap((p, c) => (lines.some((l) => this.allowed(l)[c]) ? [p.label] : [])).join()
  }

  feasible(members: readonly ConflictMember[]): boolean {
    const lines = this.wanted(members)
    if (shortage(this.board, lines)) return false
    const locks = new Map(members.flatMap((m) => (m.kind === 'lock' ? [[m.line, m.pin] as const] : [])))
    const free = new Set(members.flatMap((m) => (m.kind === 'kept-free' ? [m.pin] : [])))
    const couplings = couplingsOf(this.board, lines, 0).filter((c) => c.table.some((v) => v >= NEVER))
    for (const variant of busVariants(this.board, lines)) {
      const cost = Float64Array.from(
        lines.flatMap((line) => {
          const fits = this.allowed(line)
          const lock = locks.get(line.key)
          return this.pins.map((pin, c) =>
            fits[c] && (lock !== undefined ? lock === pin.label : !free.has(pin.label)) && inVariant(variant, line, pin)
              ? 0
              : NEVER,
          )
        }),
      )
      if (solve({ rows: lines.length, columns: this.pins.length, cost, couplings, twins: [] }).columns) return true
    }
    return false
  }

  /** How many lines of the design could have no other pins than these. */
  wanting(members: readonly ConflictMember[]): number {
    const serve = this.pins.map((_, c) => this.wanted(members).some((l) => this.allowed(l)[c]))
    return this.lines.filter((l) => this.allowed(l).every((fits, c) => !fits || serve[c])).length
  }

  /** One sentence; `inAll` is how many lines want of the same in the whole design. */
  words(members: readonly ConflictMember[], inAll?: number): string {
    const lines = this.wanted(members)
    const short = shortage(this.board, lines)
    const many = inAll === undefined ? '' : `, and ${inAll} in all ask for the same`
    if (short) return `${short.words}${many}.`
    // A lock that cannot be says what the pin itself has against it.
    for (const m of members) {
      const line = m.kind === 'lock' ? lines.find((l) => l.key === m.line) : undefined
      const pin = m.kind === 'lock' ? this.pins.find((p) => p.label === m.pin) : undefined
      const verdict = line && pin && judgePin(this.board, pin, line)
      if (m.kind === 'lock' && verdict && !verdict.fits) return `${m.words}, and ${verdict.reason}.`
    }
    const free = new Set(members.flatMap((m) => (m.kind === 'kept-free' ? [m.pin] : [])))
    const serve = this.pins.filter((p, c) => !free.has(p.label) && lines.some((l) => this.allowed(l)[c]))
    const taken = members.flatMap((m) => (m.kind === 'lock' ? [m.words] : []))
    if (lines.length === 1 && serve.length === 0)
      return `No pin ${free.size > 0 ? 'that is left ' : ''}of this board can serve ${lines[0] ? lineName(lines[0]) : 'this line'}.`
    if (serve.length < lines.length)
      return `${lines.length} lines need a pin, and only ${serve.length === 0 ? 'none' : serve.map((p) => p.label).join(', ')} could serve ${lines.length > 1 ? 'any of them' : 'it'}${many}.`
    return `${[...taken, ...members.flatMap((m) => (m.kind === 'line' ? [m.words] : []))].join('; ')}: no pins are left for all of it.`
  }

  private wanted(members: readonly ConflictMember[]): PlanLine[] {
    const keys = new Set(members.flatMap((m) => (m.kind === 'line' ? [m.line] : [])))
    const waking = new Set(members.flatMap((m) => (m.kind === 'wakes' ? [m.line] : [])))
    return this.lines
      .filter((l) => keys.has(l.key))
      .map((l) => (l.wakes && !waking.has(l.key) ? { ...l, wakes: false } : l))
  }

  private allowed(line: PlanLine): boolean[] {
    const key = `${line.key} ${line.wakes}`
    const known = this.fits.get(key)
    if (known) return known
    const fresh = this.pins.map((pin) => judgePin(this.board, pin, line).fits)
    this.fits.set(key, fresh)
    return fresh
  }
}
