import { couplerOhm } from '../arithmetic/couplerSum'
import type { Board } from '../catalog/board'
import { addedOn, type Design } from '../design/design'
import type { PlanLine } from '../pins/lines'
import { nearestIn } from '../units/eSeries'
import { ohms } from '../units/format'
import { scaleDivider } from '../wiring/divider'
import { componentIdOf, freeNames } from './context'
import type { Remedy } from './finding'

/** Light in place of a wire: a foreign voltage between these two, V, and its minus stay on their own side. */
export function couplerRemedy(design: Design, line: PlanLine, { minV, maxV }: { minV: number; maxV: number }): Remedy[] {
  const seriesOhm = nearestIn('E24', couplerOhm(minV, maxV), 'down')
  return [{
    label: `Optocoupler behind ${ohms(seriesOhm)}`,
    edits: [{ kind: 'add-component', componentId: componentIdOf(line.key, 'optocoupler'), component: { type: 'optocoupler', line: line.key, names: freeNames(design, 'U', 'R', 'D'), seriesOhm, tolerance: 0.05 } }],
  }]
}

/** A voltage that is measured, up to `maxV`, divided to what the converter measures well; a divider that is there makes room and keeps its names. */
export function scaleRemedy(design: Design, board: Board, line: PlanLine, maxV: number): Remedy[] {
  const pair = scaleDivider(maxV, board.analog.maxV)
  if (!pair) return []
  const old = addedOn(design, line.key, 'divider')
  return [{
    label: `Divide ${ohms(pair.topOhm)} over ${ohms(pair.bottomOhm)}`,
    edits: [
      ...(old ? [{ kind: 'remove-component' as const, componentId: old.id }] : []),
      { kind: 'add-component', componentId: componentIdOf(line.key, 'divider'), component: { type: 'divider', line: line.key, names: old?.value.names ?? freeNames(design, 'R', 'R'), ...pair, tolerance: 0.01 } },
    ],
  }]
}
