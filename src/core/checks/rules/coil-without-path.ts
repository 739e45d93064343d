import { replacing } from '../remedies'
import { addedOn, type Design } from '../../model/design'
import type { PlanLine } from '../../lines/lines'
import { type Load, worksOf } from '../../power/switching'
import { engineering } from '../../units/format'
import { about, componentIdOf, feedOf, freeNames, report, type Reported, type Rule } from '../context'

const SOURCE =
  'V = L · di/dt: a coil that is switched off drives its voltage up until something conducts; the diode then carries the coil’s own current.'
/** Sizes diodes are sold in, A. */
const DIODES_A = [1, 3, 5, 10, 15, 30]
/** A load that goes on driving its current when it is switched off. */
export const isCoil = (load: Load) => load.kind === 'motor' || load.kind === 'coil'

/** The smallest diode sold that carries a coil's current. */
export function diodeFor(coilA: number): number {
  return DIODES_A.find((a) => a >= coilA) ?? DIODES_A.at(-1) ?? 30
}

/** A coil whose current has nowhere to go when a transistor switches it off. */
export const coilWithoutPath: Rule = {
  id: 'coil-without-path',
  severity: 'stop',
  when: 'A line switches a coil, a motor or a valve, and there is no diode across it, or one too small or too slow.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design, catalog } = context
      const { coil } = line.terminal
      const sinks = line.kind.terminals.some(
        (t) => t.role === 'contact' && t.does?.kind === 'sinks' && t.does.of === line.terminal.id,
      )
      const coils = sinks ? worksOf(design, catalog, line.partId).filter((l) => isCoil(l) && !l.ac) : []
      if (coil ? coil.diode : coils.length === 0) return []
      const supply = feedOf(context, line.part, line.terminal.input?.from)
      const coilA = coil ? (supply?.max ?? 5.25) / coil.ohm : coils.reduce((s, l) => s + l.runA, 0)
      const ratedA = diodeFor(coilA)
      const fast = !coil && line.terminal.needs === 'pwm'
      return [...diodeFinding(design, line, { coilA, ratedA, fast, volts: supply?.max ?? coils[0]?.volts ?? null })]
    }),
}

function* diodeFinding(
  design: Design,
  line: PlanLine,
  { coilA, ratedA, fast, volts }: { coilA: number; ratedA: number; fast: boolean; volts: number | null },
): Generator<Reported> {
  const old = addedOn(design, line.key, 'diode')
  const small = old && old.value.ratedA < coilA
  const slow = old && fast && !old.value.fast
  if (old && !small && !slow) return
  const kind = fast ? 'fast or Schottky diode' : 'rectifier diode'
  const label = `${fast ? 'Schottky diode' : 'Diode'}, ${engineering(ratedA, 'A')}, across the coil`
  yield report(line.key, {
    ...about(design, line),
    sentence: whyUnfit(line.part.label, old?.value, coilA),
    steps: [
      {
        gives: 'the diode stands',
        formula: 'V_R ≥ 2 · V, I_F ≥ I_coil',
        numbers: `${volts === null ? 'twice the supply of the load' : `2 · ${volts} V`}, ${engineering(coilA, 'A')}`,
        result: `${kind}, ${engineering(ratedA, 'A')}, cathode to plus`,
      },
    ],
    remedies: [
      replacing(label, old?.id, old?.id ?? componentIdOf(line.key, 'diode'), {
        type: 'diode',
        line: line.key,
        names: old?.value.names ?? freeNames(design, 'D'),
        ratedA,
        fast,
      }),
    ],
  })
}

function whyUnfit(label: string, old: { names: [string]; ratedA: number } | undefined, coilA: number): string {
  if (!old) return `${label} switches a coil with no diode across it: the transistor dies when it is switched off.`
  return old.ratedA < coilA
    ? `${old.names[0]} of ${label} carries ${engineering(old.ratedA, 'A')}; the coil goes on with ${engineering(coilA, 'A')} when it is switched off.`
    : `${old.names[0]} of ${label} is too slow for pulse width: it still conducts when the transistor comes on again.`
}
