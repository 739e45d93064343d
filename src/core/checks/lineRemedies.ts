import { adding, replacing } from './remedies'
import { couplerOhm } from '../calculations/couplerCalculation'
import { addedOn, type Design } from '../model/design'
import type { PlanLine } from '../lines/lines'
import { nearestIn } from '../units/eSeries'
import { ohms } from '../units/format'
import { scaleDivider } from '../wiring/divider'
import { hostingEdits } from '../alternatives/remedies'
import type { AnalogPath } from '../wiring/analogPath'
import { type CheckContext, componentIdOf, freeNames } from './context'
import type { Remedy } from './finding'

/** Light in place of a wire: a foreign voltage between these two, V, and its minus stay on their own side. */
export function couplerRemedy(
  design: Design,
  line: PlanLine,
  { minV, maxV }: { minV: number; maxV: number },
): Remedy[] {
  const seriesOhm = nearestIn('E24', couplerOhm(minV, maxV), 'down')
  return [
    adding(`Optocoupler behind ${ohms(seriesOhm)}`, componentIdOf(line.key, 'optocoupler'), {
      type: 'optocoupler',
      line: line.key,
      names: freeNames(design, 'U', 'R', 'D'),
      seriesOhm,
      tolerance: 0.05,
    }),
  ]
}

/** Light in place of every one of these wires at once: one that stays joined would undo the others. */
export function couplersRemedy(
  design: Design,
  wanted: readonly { line: PlanLine; range: { minV: number; maxV: number } }[],
): Remedy[] {
  const [first] = wanted
  if (!first) return []
  if (wanted.length === 1) return couplerRemedy(design, first.line, first.range)
  const names = freeNames(design, ...wanted.flatMap(() => ['U', 'R', 'D']))
  return [
    {
      label: `Optocouplers on ${wanted.map(({ line }) => line.terminal.label).join(', ')}`,
      edits: wanted.map(({ line, range }, i) => ({
        kind: 'add-component',
        componentId: componentIdOf(line.key, 'optocoupler'),
        component: {
          type: 'optocoupler',
          line: line.key,
          names: [names[3 * i] ?? '', names[3 * i + 1] ?? '', names[3 * i + 2] ?? ''],
          seriesOhm: nearestIn('E24', couplerOhm(range.minV, range.maxV), 'down'),
          tolerance: 0.05,
        },
      })),
    },
  ]
}

/**
 * A voltage that is measured, up to `maxV`, divided to what the converter measures well; a divider that is there makes
 * room and keeps its names.
 */
export function scaleRemedy(design: Design, path: AnalogPath, line: PlanLine, maxV: number): Remedy[] {
  const pair = scaleDivider(maxV, path.converter.maxV, path.sourceOhm)
  // A resistor that is measured, or one with a pull, would be loaded by a divider and read false.
  if (!pair || line.terminal.sensor || line.terminal.swings || line.pulls.length > 0) return []
  const old = addedOn(design, line.key, 'divider')
  return [
    replacing(`Divide ${ohms(pair.topOhm)} over ${ohms(pair.bottomOhm)}`, old?.id, componentIdOf(line.key, 'divider'), {
      type: 'divider',
      line: line.key,
      names: old?.value.names ?? freeNames(design, 'R', 'R'),
      ...pair,
      tolerance: 0.01,
    }),
  ]
}

/** The external converter, where it measures up to `maxV` and has a free input: the one that is there, or a new one. */
export function converterRemedy({ design, catalog }: CheckContext, line: PlanLine, maxV: number): Remedy[] {
  const [at] = hostingEdits(design, catalog, [line.partId])
  const converter = catalog.parts['adc-i2c-4']?.converter
  if (!at || !converter || line.hosted || maxV > converter.maxV + 0.1) return []
  return [at]
}
