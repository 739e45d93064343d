import { adding } from '../remedies'
import { busPullLimits, MOST_F, parallel, RISE_S } from '../../calculations/busPullCalculation'
import { nearestIn } from '../../units/eSeries'
import { farads, ohms } from '../../units/format'
import { lineName } from '../../lines/lines'
import { type CheckContext, componentIdOf, freeNames, report, type Rule } from '../context'
import type { PlanLine } from '../../lines/lines'

const PIN_F = 10e-12
const WIRE_F_PER_M = 100e-12
const SOURCE =
  'The I²C bus specification at 100 kHz: 3 mA at 0.4 V, rise of 1000 ns, 400 pF; 10 pF a pin, 100 pF a metre.'

/**
 * Pull-ups and capacitance of one bus line: the modules' own in parallel, what the design adds, all pins and the cable.
 */
export function busLine(
  { board }: CheckContext,
  line: PlanLine,
): { modulesOhm: number; pullOhm: number; capacitanceF: number } {
  const own = line.members.flatMap((m) => m.kind.i2c?.pull?.ohm ?? [])
  const modulesOhm = own.length > 0 ? parallel(own) : Infinity
  const pullOhm = line.pulls.length > 0 ? parallel([modulesOhm, ...line.pulls.map((p) => p.ohm)]) : modulesOhm
  return {
    modulesOhm,
    pullOhm,
    capacitanceF:
      board.input.capacitanceF + line.members.reduce((sum, m) => sum + PIN_F + m.part.cableM * WIRE_F_PER_M, 0),
  }
}

/** Pulls of a two-wire bus between what a part can pull low and what still gives edges fast enough. */
export const busEdges: Rule = {
  id: 'bus-edges',
  severity: 'fix',
  when: 'The pull-ups of a two-wire bus are too strong, too weak or missing for its wires and parts.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design, board } = context
      if (line.bus?.kind !== 'i2c' || design.plan.pins[line.key] === undefined) return []
      const { modulesOhm, pullOhm, capacitanceF } = busLine(context, line)
      const { minOhm, maxOhm } = busPullLimits(board.supplyV.max, RISE_S.standard, capacitanceF)
      const slow =
        pullOhm > maxOhm
          ? `all pull-ups together are ${ohms(pullOhm)}, and its edges need ${ohms(maxOhm)} or less`
          : null
      const strong =
        pullOhm < minOhm
          ? `all pull-ups together are ${ohms(pullOhm)}, and a part can pull low no less than ${ohms(minOhm)}`
          : slow
      const unpulled = pullOhm === Infinity ? 'nothing pulls it up' : strong
      const trouble = capacitanceF > MOST_F ? `${farads(capacitanceF)} hang on it; the bus stands 400 pF` : unpulled
      if (trouble === null) return []
      const wanted = Math.sqrt(minOhm * maxOhm)
      const add =
        pullOhm > maxOhm && capacitanceF <= MOST_F && wanted < modulesOhm
          ? nearestIn('E24', modulesOhm === Infinity ? wanted : 1 / (1 / wanted - 1 / modulesOhm))
          : null
      const given = {
        supplyV: board.supplyV.max,
        capacitanceF,
        riseS: RISE_S.standard,
        modulesOhm: modulesOhm === Infinity ? 1e9 : modulesOhm,
        value: add ?? 4700,
      }
      return [
        report(line.key, {
          partId: line.partId,
          sentence: `${lineName(line)}: ${trouble}.`,
          steps: [
            {
              gives: 'capacitance',
              formula: 'C = Σ 10 pF + 100 pF/m · L',
              numbers: `${line.members.length + 1} pins, ${line.members.reduce((m, x) => m + x.part.cableM, 0).toFixed(1)} m`,
              result: farads(capacitanceF),
            },
            {
              gives: 'least',
              formula: 'R_min = (V_DD − 0.4 V) / 3 mA',
              numbers: `(${board.supplyV.max} − 0.4) / 0.003`,
              result: ohms(minOhm),
            },
            {
              gives: 'most',
              formula: 'R_max = t_r / (0.8473 · C)',
              numbers: `1000 ns / (0.8473 · ${farads(capacitanceF)})`,
              result: ohms(maxOhm),
            },
          ],
          remedies:
            add === null || line.pulls.length > 0
              ? []
              : [
                  adding(`Add ${ohms(add)} to 3.3 V`, componentIdOf(line.key, 'pull'), {
                    type: 'pull',
                    line: line.key,
                    names: freeNames(design, 'R'),
                    level: 'high',
                    ohm: add,
                    tolerance: 0.05,
                  }),
                ],
          calculation: { id: 'bus-pull', target: { line: line.key }, given },
        }),
      ]
    }),
}
