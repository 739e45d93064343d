import { isKey } from '../../catalog/drivers'
import { ohms } from '../../units/format'
import { chooseLadder, judgeLadder, LADDER_PULL_OHM as PULL_OHM, ladderRequirement } from '../../wiring/ladder'
import { about, report, type Rule } from '../context'

/** Keys on one analog line: which resistors, and how far neighbouring codes stay apart at 1 % and at 5 %. */
export const ladderGap: Rule = {
  id: 'ladder-gap',
  severity: 'note',
  when: 'Several keys share one analog line.',
  source:
    'Voltage divider at both ends of the resistors’ tolerance and of the supply, against the converter’s reference; converter error 1 % of full scale.',
  check: ({ design, board, lines }) =>
    lines.flatMap((line) => {
      const keys = line.kind.channels.filter((c) => isKey(c.driver)).length
      if (line.terminal.needs !== 'analog' || keys === 0) return []
      const wish = ladderRequirement(board, keys)
      const ladder = chooseLadder(wish)
      const rough = judgeLadder(
        ladder.keys.map((k) => k.ohm),
        { ...wish, tolerance: 0.05 },
      )
      const gap = (n: number) => (n > 0 ? `${Math.floor(n)} codes` : `overlap by ${Math.ceil(-n)} codes`)
      const severity = ladder.worstGap > 0 ? 'fix' : 'stop'
      return [
        report(line.partId, {
          severity: rough.worstGap > 0 ? 'note' : severity,
          ...about(design, line),
          sentence: `${line.part.label}: ${ladder.keys.map((k) => (k.ohm === 0 ? '0 Ω' : ohms(k.ohm))).join(', ')} with ${ohms(PULL_OHM)} to 3.3 V. Worst gap ${gap(ladder.worstGap)} at 1 %, ${gap(rough.worstGap)} at 5 %.`,
          steps: ladder.keys.map((k, i) => ({
            gives: `key ${i + 1}`,
            formula: 'code = full · V_DD · R / (R_pull + R) / V_full, 1 % either way',
            numbers: `${2 ** wish.bits - 1} · 3.3 V · ${k.ohm} / (${PULL_OHM} + ${k.ohm}) / ${wish.fullV} V`,
            result: `${Math.round(k.code)} (${Math.round(k.low)} … ${Math.round(k.high)})`,
          })),
          source:
            wish.ripple === 0
              ? 'The converter’s reference is the supply itself, so that its ripple cancels.'
              : `The converter has a reference of its own, so that the supply’s ${(wish.ripple * 100).toFixed(0)} % either way counts.`,
          calculation: {
            id: 'ladder',
            target: {},
            given: {
              keys,
              pullOhm: PULL_OHM,
              tolerance: 0.01,
              bits: wish.bits,
              maxV: wish.maxV,
              fullV: wish.fullV,
              ripple: wish.ripple,
              loadOhm: Math.min(1e9, wish.loadOhm),
            },
          },
        }),
      ]
    }),
}
