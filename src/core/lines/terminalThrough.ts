import type { LineTerminal } from '../catalog/part'
import { addedOn, type Design, type LineKey } from '../model/design'

/** What is lit or let through holds the line this hard, ohm. */
const COUPLER_ON_OHM = 500
const OPEN_OHM = 100_000_000

/**
 * A terminal as its pin sees it: behind a transistor, a coupler or a shifter it asks for and gives other levels than on
 * the part itself. A transistor turns an active-low input round; a part that is described as active high is described
 * through the transistor it needs.
 */
export function terminalThrough(
  design: Design,
  line: LineKey,
  terminal: LineTerminal,
): { terminal: LineTerminal; inverted: boolean } {
  const driver = addedOn(design, line, 'driver')
  if (driver) {
    const { device, seriesOhm, holdOhm } = driver.value
    return {
      inverted: terminal.rest?.level === 'high',
      terminal: {
        ...terminal,
        board: 'drives',
        rest: { level: 'low', ownPullOhm: holdOhm },
        output: undefined,
        states: [{ name: 'resting', level: 'low', ohm: holdOhm }],
        input:
          device === 'fet'
            ? { ohm: holdOhm, highMinV: 2.5, maxA: 3.4 / holdOhm }
            : { ohm: seriesOhm, maxA: 2.7 / seriesOhm },
      },
    }
  }
  const coupler = addedOn(design, line, 'optocoupler')
  if (coupler) {
    return {
      inverted: true,
      terminal: {
        ...terminal,
        board: 'reads',
        needs: terminal.needs === 'analog' ? 'level' : terminal.needs,
        pull: 'up',
        output: { kind: 'open-drain', lowMaxV: 0.4, maxA: 0.002 },
        states: [
          { name: 'dark', level: 'open', ohm: OPEN_OHM },
          { name: 'lit', level: 'low', ohm: COUPLER_ON_OHM },
        ],
      },
    }
  }
  if (addedOn(design, line, 'shifter')) {
    const { input, output } = terminal
    return {
      inverted: false,
      terminal: {
        ...terminal,
        input: input && { ohm: 10_000, maxA: 0.001 },
        output:
          output?.kind === 'open-drain'
            ? output
            : output && { kind: 'fixed', highMinV: 2.9, highMaxV: 3.4, lowMaxV: 0.5, maxA: 0.001 },
      },
    }
  }
  return { terminal, inverted: false }
}
