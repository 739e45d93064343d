import { engineering, farads, ohms, volts } from '../units/format'
import { dividerLevels } from '../wiring/divider'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

export const dividerCalculation: Calculation = {
  id: 'divider',
  title: 'Divider',
  chooses: 'resistor',
  source: 'Kirchhoff at both ends of the resistors’ tolerance; thresholds of the chip’s data sheet.',
  fields: [
    field('maxV', 'highest in', 'V', 0, 60),
    field('minV', 'lowest high in', 'V', 0, 60),
    field('limitV', 'pin stands', 'V', 0.1, 60),
    field('readsHighV', 'reads high from', 'V', 0, 60),
    field('topOhm', 'upper resistor', 'Ω', 1, 1e7),
    field('value', 'lower resistor', 'Ω', 1, 1e7),
    field('tolerance', 'tolerance', '1', 0, 0.2),
    field('capacitanceF', 'at the pin', 'F', 0, 1e-6),
  ],
  solve: ({
    maxV = 0,
    minV = 0,
    limitV = 1,
    readsHighV = 0,
    topOhm = 1,
    value = 1,
    tolerance = 0,
    capacitanceF = 0,
  }) => {
    const at = dividerLevels({ minV, maxV, topOhm, bottomOhm: value, tolerance, capacitanceF })
    const share = (limitV / maxV + readsHighV / Math.max(minV, 1e-9)) / 2
    const ok = at.highestV <= limitV && at.lowestV >= readsHighV
    const whyNot =
      at.highestV > limitV
        ? `Too high by ${volts(at.highestV - limitV)}.`
        : `Reads high only above ${volts(readsHighV)}.`
    return {
      steps: [
        step(
          'highest at the pin',
          'V = V_max · R2·(1+t) / (R1·(1−t) + R2·(1+t))',
          `${volts(maxV)}, R1 ${ohms(topOhm)}, R2 ${ohms(value)}`,
          volts(at.highestV),
        ),
        step(
          'lowest high at the pin',
          'V = V_min · R2·(1−t) / (R1·(1+t) + R2·(1−t))',
          `${volts(minV)}`,
          volts(at.lowestV),
        ),
        step(
          'edge',
          't = 2.2 · R1‖R2 · C',
          `2.2 · ${ohms((topOhm * value) / (topOhm + value))} · ${farads(capacitanceF)}`,
          engineering(at.edgeS, 's'),
        ),
        step(
          'taken from the output',
          'I = V_max / (R1 + R2)',
          `${volts(maxV)} / ${ohms(topOhm + value)}`,
          engineering(at.sourceA, 'A'),
        ),
      ],
      ok,
      words: ok ? 'Both limits are kept.' : whyNot,
      ideal: share < 1 ? (topOhm * share) / (1 - share) : null,
    }
  },
}
