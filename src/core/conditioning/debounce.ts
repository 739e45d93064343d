export interface DebounceState {
  stable: boolean
  candidate: boolean
  sinceMs: number
}

export function startDebounce(level: boolean): DebounceState {
  return { stable: level, candidate: level, sinceMs: 0 }
}

/** A level becomes the stable one when it has been seen without a change for `debounceMs`. Times in ms, any start. */
export function debounceStep(state: DebounceState, level: boolean, nowMs: number, debounceMs: number): DebounceState {
  if (level !== state.candidate) return { stable: state.stable, candidate: level, sinceMs: nowMs }
  if (level !== state.stable && nowMs - state.sinceMs >= debounceMs) return { ...state, stable: level }
  return state
}
