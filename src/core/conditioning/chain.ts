import { type Curve, curveAt } from '../calibration/curve'
import { median } from './median'

/** What happens to a reading on its way out, as the node file states it. SI, temperatures in °C. */
export interface ChainSettings {
  /** Range outside which a reading is unknown. */
  min: number
  max: number
  median: number
  /** Time constant of the exponential average, s; 0 is none. */
  averageS: number
  /** Height over the empty level, m; null leaves the reading as it is. */
  mountM: number | null
  gain: number
  offset: number
  /** In place of gain and offset; where it says nothing the value is unknown. */
  curve?: Curve
}

export interface ChainState {
  recent: number[]
  average: number | null
}

export function startChain(): ChainState {
  return { recent: [], average: null }
}

export interface ChainStep {
  state: ChainState
  value: number | null
  beforeCalibration: number | null
}

/**
 * One reading through validity, median, average, geometry, calibration. `null` in means no answer and gives `null` out;
 * it empties the memory, so that old readings never vouch for new ones. `sinceS` is the time since the reading before.
 * The average is the backward-Euler low-pass, weight Δt/(τ+Δt): the board computes the same in the same order, to the
 * last bit.
 */
export function chainStep(
  settings: ChainSettings,
  state: ChainState,
  reading: number | null,
  sinceS: number,
): ChainStep {
  if (reading === null || !(reading >= settings.min && reading <= settings.max)) {
    return { state: startChain(), value: null, beforeCalibration: null }
  }
  const recent = [...state.recent, reading].slice(-settings.median)
  const middle = median(recent)
  const average =
    settings.averageS > 0 && state.average !== null
      ? state.average + (sinceS / (settings.averageS + sinceS)) * (middle - state.average)
      : middle
  const placed = settings.mountM === null ? average : settings.mountM - average
  const value =
    settings.curve === undefined ? placed * settings.gain + settings.offset : told(curveAt(settings.curve, placed))
  return { state: { recent, average }, value, beforeCalibration: placed }
}

/** What is beyond this is no number any more. */
const told = (v: number): number | null => (v > -1e30 && v < 1e30 ? v : null)
