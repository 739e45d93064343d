import { byOne } from '../remedies'
import { traitsOf } from '../../catalog/drivers'
import { channelOf } from '../../publish/channelOf'
import { inOrder } from '../../model/design'
import { report, type Rule } from '../context'

/** A person's strokes scatter by about this much, ms (one standard deviation). */
const SCATTER_MS = 65
/** Distance at which a stroke is taken for another once in forty times. */
const APART = 2
/** A usual short stroke and pause, ms. */
const STROKE_MS = 150

/** Patterns that a person makes so alike that one is often taken for the other. */
export const pressesTooClose: Rule = {
  id: 'presses-too-close',
  severity: 'fix',
  when: 'A key tells several presses whose times lie closer than a person can hit.',
  source: 'Scatter of a person’s strokes 50 to 80 ms, one standard deviation; two of them on either side.',
  check: ({ design, catalog }) =>
    inOrder(design.signals).flatMap(({ id, value: signal }) => {
      const { patterns, gapMs, longMs } = signal.conditioning
      const channel = channelOf(design, catalog, signal)
      if (channel?.access !== 'event' || traitsOf(channel.driver).tells !== 'presses') return []
      const several = patterns.some((p) => ['double', 'triple', 'quadruple', 'short-long', 'long-short'].includes(p))
      const long = patterns.some((p) => ['long', 'short-long', 'long-short', 'long-release', 'repeat'].includes(p))
      const least = STROKE_MS + APART * SCATTER_MS
      const found = [
        ...(several && gapMs < least
          ? [
              {
                what: 'gap',
                ms: gapMs,
                of: 'a second stroke often comes later than that and is told as two single ones',
                set: { gapMs: 350 },
              },
            ]
          : []),
        ...(long && longMs < STROKE_MS + APART * SCATTER_MS + 70
          ? [
              {
                what: 'long press',
                ms: longMs,
                of: 'an unhurried short press is often taken for a long one',
                set: { longMs: 600 },
              },
            ]
          : []),
      ]
      return found.map(({ what, ms, of, set }) =>
        report(`${id}:${what}`, {
          bench: 'program',
          signalId: id,
          partId: signal.partId,
          sentence: `${signal.name}: ${what} ${ms} ms; ${of}.`,
          steps: [
            {
              gives: `least ${what}`,
              formula: what === 'gap' ? 't = stroke + 2 σ' : 't = stroke + 2 σ + 70 ms',
              numbers: `${STROKE_MS} ms + 2 · ${SCATTER_MS} ms${what === 'gap' ? '' : ' + 70 ms'}`,
              result: `${what === 'gap' ? least : least + 70} ms`,
            },
          ],
          remedies: [
            byOne(what === 'gap' ? 'A gap of 350 ms' : 'Long from 600 ms', { kind: 'condition', signalId: id, set }),
          ],
        }),
      )
    }),
}
