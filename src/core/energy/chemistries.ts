import type { Chemistry } from '../catalog/part'
import { type Spread, spread } from './spread'

/** One cell of a chemistry, whatever its size. */
export interface CellFacts {
  /** Voltage of a full cell, V: how many stand in series follows from it. */
  fullV: number
  /** Share of charge left → voltage at small load and 20 °C, V, from full to empty. */
  curve: readonly (readonly [number, number])[]
  /** Share lost by itself in a month at 20 °C. */
  selfPerMonth: Spread
  /** Share of its charge that is there at −5 °C. */
  cold: Spread
  /** Largest pulse one cell stands without a capacitor beside it, A; null where the part's own limit says it. */
  pulseA: number | null
  source: string
}

/**
 * Usual curves at loads far below the rated one. Own discharge: shelf life as makers of such cells state it (alkaline:
 * four fifths left after 7 to 10 years at 20 °C, hence 0.2 to 0.3 % a month).
 */
export const CELLS: Record<Chemistry, CellFacts> = {
  'lithium-ion': {
    fullV: 4.2,
    curve: [
      [1, 4.2],
      [0.9, 4.06],
      [0.8, 3.98],
      [0.7, 3.92],
      [0.6, 3.87],
      [0.5, 3.82],
      [0.4, 3.79],
      [0.3, 3.77],
      [0.2, 3.74],
      [0.1, 3.68],
      [0.05, 3.45],
      [0, 3],
    ],
    selfPerMonth: spread(0.015, 0.025, 0.035),
    cold: spread(0.75, 0.85, 0.92),
    pulseA: null,
    source: 'lithium-ion cells with protection: usual discharge curve at a fifth of the hourly rate',
  },
  'lithium-iron-phosphate': {
    fullV: 3.6,
    curve: [
      [1, 3.45],
      [0.95, 3.34],
      [0.8, 3.32],
      [0.6, 3.3],
      [0.4, 3.28],
      [0.2, 3.22],
      [0.1, 3.12],
      [0.05, 2.95],
      [0, 2.5],
    ],
    selfPerMonth: spread(0.01, 0.02, 0.03),
    cold: spread(0.6, 0.72, 0.85),
    pulseA: null,
    source: 'lithium iron phosphate: usual discharge curve, flat near 3.3 V',
  },
  'lithium-iron-disulfide': {
    fullV: 1.75,
    curve: [
      [1, 1.72],
      [0.95, 1.58],
      [0.5, 1.5],
      [0.2, 1.42],
      [0.1, 1.35],
      [0.05, 1.22],
      [0, 1],
    ],
    selfPerMonth: spread(0.0005, 0.0008, 0.0012),
    cold: spread(0.9, 0.96, 1),
    pulseA: null,
    source: 'lithium AA cells: usual curve; shelf life 20 years',
  },
  'lithium-manganese': {
    fullV: 3,
    curve: [
      [1, 3],
      [0.9, 2.95],
      [0.5, 2.88],
      [0.2, 2.75],
      [0.1, 2.6],
      [0, 2],
    ],
    selfPerMonth: spread(0.0006, 0.0008, 0.0012),
    cold: spread(0.7, 0.8, 0.9),
    pulseA: 0.015,
    source: 'lithium manganese coin cells: pulses of 10 to 15 mA at most',
  },
  'lithium-thionyl': {
    fullV: 3.65,
    curve: [
      [1, 3.65],
      [0.5, 3.63],
      [0.1, 3.58],
      [0.05, 3.4],
      [0, 2.5],
    ],
    selfPerMonth: spread(0.0006, 0.0008, 0.0015),
    cold: spread(0.75, 0.85, 0.95),
    pulseA: 0.05,
    source: 'lithium thionyl chloride: after rest a film on the lithium holds back all but small currents',
  },
  'lithium-primary': {
    fullV: 3,
    curve: [
      [1, 3],
      [0.9, 2.9],
      [0.5, 2.85],
      [0.1, 2.6],
      [0, 2],
    ],
    selfPerMonth: spread(0.0006, 0.0008, 0.0012),
    cold: spread(0.7, 0.8, 0.9),
    pulseA: null,
    source: 'lithium primary cells of 3 V',
  },
  alkaline: {
    fullV: 1.6,
    curve: [
      [1, 1.58],
      [0.9, 1.46],
      [0.8, 1.38],
      [0.7, 1.33],
      [0.6, 1.29],
      [0.5, 1.26],
      [0.4, 1.23],
      [0.3, 1.19],
      [0.2, 1.14],
      [0.1, 1.05],
      [0, 0.9],
    ],
    selfPerMonth: spread(0.0015, 0.0025, 0.004),
    cold: spread(0.45, 0.6, 0.75),
    pulseA: null,
    source: 'alkaline cells at some ten milliamperes; at heavier loads less is there',
  },
  nickel: {
    fullV: 1.4,
    curve: [
      [1, 1.38],
      [0.9, 1.29],
      [0.5, 1.25],
      [0.2, 1.21],
      [0.1, 1.17],
      [0.05, 1.12],
      [0, 1],
    ],
    selfPerMonth: spread(0.01, 0.02, 0.05),
    cold: spread(0.7, 0.8, 0.9),
    pulseA: null,
    source: 'nickel-metal hydride cells with little discharge of their own',
  },
  lead: {
    fullV: 2.13,
    curve: [
      [1, 2.12],
      [0.75, 2.08],
      [0.5, 2.03],
      [0.25, 1.98],
      [0, 1.9],
    ],
    selfPerMonth: spread(0.03, 0.04, 0.06),
    cold: spread(0.7, 0.78, 0.85),
    pulseA: null,
    source: 'sealed lead cells at rest',
  },
}

/** Share of charge left when a cell of this curve has fallen to `volts`: 1 above full, 0 below empty. */
export function shareLeft(curve: CellFacts['curve'], volts: number): number {
  const [full] = curve
  if (!full || volts >= full[1]) return 1
  for (let i = 1; i < curve.length; i++) {
    const [a, b] = [curve[i - 1], curve[i]]
    if (a && b && volts >= b[1]) return b[0] + ((a[0] - b[0]) * (volts - b[1])) / (a[1] - b[1])
  }
  return 0
}

/** Voltage at this share of charge, V. */
export function voltageAt(curve: CellFacts['curve'], share: number): number {
  for (let i = 1; i < curve.length; i++) {
    const [a, b] = [curve[i - 1], curve[i]]
    if (a && b && share >= b[0]) return b[1] + ((a[1] - b[1]) * (Math.min(share, a[0]) - b[0])) / (a[0] - b[0])
  }
  return curve.at(-1)?.[1] ?? 0
}

/** Mean voltage over its whole charge, V: what a converter sees on average. */
export function meanVoltage(curve: CellFacts['curve']): number {
  let sum = 0
  for (let i = 1; i < curve.length; i++) {
    const [a, b] = [curve[i - 1], curve[i]]
    if (a && b) sum += (a[0] - b[0]) * ((a[1] + b[1]) / 2)
  }
  return sum
}
