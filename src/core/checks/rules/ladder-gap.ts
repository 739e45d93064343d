import type { Board } from '../../catalog/board'
import { ohms } from '../../units/format'
import { chooseLadder, judgeLadder } from '../../wiring/ladder'
import { type Rule, signalOfPart } from '../context'

const PULL_OHM = 4700
/** Converters on these chips are off by about this share of full scale over the useful middle. */
const CONVERTER_ERROR = 0.01

/** Codes of one analog conversion. */
function bitsOf(board: Board): number {
  return board.chip.startsWith('8266') ? 10 : 12
}

/** Keys on one analog line: which resistors, and how far neighbouring codes stay apart at 1 % and at 5 %. */
export const ladderGap: Rule = {
  id: 'ladder-gap',
  severity: 'note',
  when: 'Several keys share one analog line.',
  source: 'Voltage divider at both ends of the resistors’ tolerance; converter error 1 % of full scale.',
  check: ({ design, board, lines }) => lines.flatMap((line) => {
    const keys = line.kind.channels.filter((c) => c.driver === 'keys').length
    if (line.terminal.needs !== 'analog' || keys === 0) return []
    const wish = { keys, pullOhm: PULL_OHM, tolerance: 0.01, bits: bitsOf(board), converterError: CONVERTER_ERROR }
    const ladder = chooseLadder(wish)
    const rough = judgeLadder(ladder.keys.map((k) => k.ohm), { ...wish, tolerance: 0.05 })
    const gap = (n: number) => (n > 0 ? `${Math.floor(n)} codes` : `overlap by ${Math.ceil(-n)} codes`)
    return [{
      rule: 'ladder-gap', severity: rough.worstGap > 0 ? 'note' as const : ladder.worstGap > 0 ? 'fix' as const : 'stop' as const,
      key: `ladder-gap:${line.partId}`, bench: 'wires' as const, signalId: signalOfPart(design, line.partId), partId: line.partId,
      sentence: `${line.part.label}: ${ladder.keys.map((k) => (k.ohm === 0 ? '0 Ω' : ohms(k.ohm))).join(', ')} with ${ohms(PULL_OHM)} to 3.3 V. Worst gap ${gap(ladder.worstGap)} at 1 %, ${gap(rough.worstGap)} at 5 %.`,
      working: {
        steps: ladder.keys.map((k, i) => ({
          gives: `key ${i + 1}`, formula: 'code = full · R / (R_pull + R), 1 % either way',
          numbers: `${2 ** wish.bits - 1} · ${k.ohm} / (${PULL_OHM} + ${k.ohm})`, result: `${Math.round(k.code)} (${Math.round(k.low)} … ${Math.round(k.high)})`,
        })),
        source: 'The pull-up hangs on the converter’s own reference, so that ripple of the supply cancels.',
      },
      remedies: [], caution: null,
    }]
  }),
}
