let lastMs = -1
let lastText = ''

/** ISO 8601 of a moment, ms. Many messages bear the same millisecond: it is written out once. */
export function isoTime(ms: number): string {
  if (ms !== lastMs) {
    lastMs = ms
    lastText = new Date(ms).toISOString()
  }
  return lastText
}
