/** Intervals without a word after which a value is old, and a little for the way, ms. */
const LATE_INTERVALS = 3
const LATE_MORE_MS = 5000

/** Silence after which a value that should come every `intervalS` is late, s. */
export const lateAfterS = (intervalS: number): number => LATE_INTERVALS * intervalS + LATE_MORE_MS / 1000

/** True when a value that should come every `intervalS` is `ageMs` old and thus late; 0 s promises nothing. */
export const isLate = (intervalS: number, ageMs: number): boolean =>
  intervalS > 0 && ageMs > 1000 * lateAfterS(intervalS)

/** Silence after which a broker takes a node for gone and tells its last will, s: MQTT 3.1.1, 3.1.2.10. */
export const goneAfterS = (keepAliveS: number): number => keepAliveS * 1.5
