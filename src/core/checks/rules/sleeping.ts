import { channelOf } from '../../publish/describe'
import { supplyCurrents } from '../../catalog/part'
import { inOrder } from '../../design/design'
import { engineering } from '../../units/format'
import { feedOf, report, type Rule, signalOfPart } from '../context'

/** A sleep the chip cannot end, or cannot count. */
export const sleepUnfit: Rule = {
  id: 'sleep-unfit',
  severity: 'stop',
  when: 'A node sleeps for longer than its chip counts, or on a chip that nothing wakes by time.',
  source: 'Chip data sheet: what ends its deepest sleep, and how far its timer counts.',
  check: ({ design, board }) => {
    const { sleep } = design
    const { timer, longestS, note } = board.wake
    if (!sleep || (timer && (longestS === null || sleep.everyS <= longestS))) return []
    return [report('sleep-unfit', 'node', {
      severity: 'stop', bench: 'parts', source: sleepUnfit.source,
      sentence: timer ? `It is to wake every ${sleep.everyS} s, and this chip counts ${longestS} s at most.` : `Nothing on this board ends its sleep by time. ${note}`,
      remedies: [...(timer && longestS !== null ? [{ label: `Wake every ${longestS} s`, edits: [{ kind: 'sleep' as const, everyS: longestS }] }] : []), { label: 'Do not sleep', edits: [{ kind: 'sleep', everyS: null }] }],
    })]
  },
}

/** Share of the board's own sleep current from which a part decides how long a cell lasts. */
const MATTERS_A = 0.0005

/** Parts that go on taking current while the node sleeps. */
export const awakeConsumers: Rule = {
  id: 'awake-consumers',
  severity: 'fix',
  when: 'A node sleeps, and its parts go on taking more than half a milliampere.',
  source: 'Currents at rest of the parts’ data sheets against the board’s own while it sleeps.',
  check: (context) => {
    const { design, board, parts } = context
    if (!design.sleep) return []
    const awake = parts.flatMap(({ id, part, kind }) => (kind.load || kind.terminals.some((t) => t.role === 'source') ? [] : kind.terminals.flatMap((t) => {
      const rail = t.role === 'supply' ? feedOf(context, part, t.id) : undefined
      const { idleA } = t.role === 'supply' ? supplyCurrents(t, part.settings, kind) : { idleA: 0 }
      return rail && rail.through === null && idleA > 0 ? [{ id, label: part.label, idleA }] : []
    })))
    const sumA = awake.reduce((s, a) => s + a.idleA, 0)
    const [worst] = [...awake].sort((a, b) => b.idleA - a.idleA)
    if (sumA <= MATTERS_A || !worst) return []
    return [report('awake-consumers', 'node', {
      severity: 'fix', bench: 'parts', partId: worst.id, signalId: signalOfPart(design, worst.id), source: awakeConsumers.source,
      sentence: `Its parts take ${engineering(sumA, 'A')} while it sleeps, the board itself ${engineering(board.currents.sleepA.likely, 'A')}: ${worst.label} alone ${engineering(worst.idleA, 'A')}. A cell of 1 000 mAh is empty after ${days(sumA + board.currents.sleepA.likely)}.`,
      steps: awake.map((a) => ({ gives: a.label, formula: 'at rest', numbers: 'data sheet', result: engineering(a.idleA, 'A') })),
    })]
  },
}

const days = (a: number): string => {
  const d = 1 / a / 24
  return d < 2 ? `${(d * 24).toFixed(0)} hours` : `${d.toFixed(0)} days`
}

/** Parts that need longer to be ready than a waking lasts. */
export const warmUpTooLong: Rule = {
  id: 'warm-up-too-long',
  severity: 'fix',
  when: 'A node sleeps, and a part of it has to warm up after power or would be read too early.',
  source: 'Data sheet of the part: time until it can be believed.',
  check: ({ design, parts, catalog }) => (design.sleep === null ? [] : parts.flatMap(({ id, part, kind }) => {
    if (!kind.warmUp || !inOrder(design.signals).some(({ value }) => value.partId === id && channelOf(design, catalog, value)?.access !== 'output')) return []
    return [report('warm-up-too-long', id, {
      severity: 'fix', bench: 'parts', partId: id, signalId: signalOfPart(design, id), source: warmUpTooLong.source,
      sentence: `${part.label} needs ${kind.warmUp.s} s after power: ${kind.warmUp.why} A node that wakes for seconds never believes it; fed all the time it empties the cell.`,
      remedies: [{ label: 'Do not sleep', edits: [{ kind: 'sleep', everyS: null }] }],
    })]
  })),
}
