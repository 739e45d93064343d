import { byOne } from '../remedies'
import { report, type Rule } from '../context'

/** A sleep the chip cannot end, or cannot count. */
export const sleepUnfit: Rule = {
  id: 'sleep-unfit',
  severity: 'stop',
  when: 'A node sleeps for longer than its chip counts, or on a chip that nothing wakes by time.',
  source: 'Chip data sheet: what ends its deepest sleep, and how far its timer counts.',
  check: ({ design, board }) => {
    const { sleep } = design
    const { timer, longestS, note } = board.wake
    if (!sleep || (timer && (longestS === null || sleep.everyS <= longestS))) return []
    return [
      report('node', {
        bench: 'parts',
        sentence: timer
          ? `It is to wake every ${sleep.everyS} s, and this chip counts ${longestS} s at most.`
          : `Nothing on this board ends its sleep by time. ${note}`,
        remedies: [
          ...(timer && longestS !== null
            ? [byOne(`Wake every ${longestS} s`, { kind: 'sleep', everyS: longestS })]
            : []),
          byOne('Do not sleep', { kind: 'sleep', everyS: null }),
        ],
      }),
    ]
  },
}
