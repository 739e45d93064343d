import { isKey } from '../../catalog/drivers'
import { type AddedComponent, type Design, addedOn } from '../../model/design'
import { nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { about, type CheckContext, componentIdOf, freeNames, pinAt, report, type Reported, type Rule } from '../context'
import type { PlanLine } from '../../lines/lines'
import type { EditBody } from '../../edits/edit'

const LONG_M = 2
const SOURCE =
  'Practice for wires longer than 2 m or outdoors: 100 Ω to 1 kΩ in series, a clamp, and a pull of 2.2 to 4.7 kΩ.'
const SERIES_OHM = 470

/** A long or outdoor wire straight at an input. */
export const longWire: Rule = {
  id: 'long-wire',
  severity: 'fix',
  when: 'A wire longer than 2 m, or outdoors, ends at a pin without protection.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { design } = context
      const { cableM, outdoor } = line.part
      if (!pinAt(context, line) || (cableM <= LONG_M && !outdoor) || line.bus) return []
      if (addedOn(design, line.key, 'optocoupler') || addedOn(design, line.key, 'driver')) return []
      return line.terminal.board === 'drives' || line.terminal.needs === 'analog'
        ? otherLong(context, line)
        : longInput(context, line)
    }),
}

const PULL_OHM = 3300

/** A long wire at an input that is read as high or low. */
function longInput({ design, board }: CheckContext, line: PlanLine): Reported[] {
  const missing = missingAt(design, line)
  if (missing.length === 0) return []
  const { cableM, outdoor } = line.part
  const low = (board.supplyV.max * SERIES_OHM) / (SERIES_OHM + PULL_OHM)
  return [
    report(line.key, {
      severity: outdoor ? 'fix' : 'note',
      ...about(design, line),
      sentence: `${line.part.label} comes in over ${cableM} m${outdoor ? ' from outside' : ''}: ${missing.map((m) => m.words).join(', ')} at the board.`,
      steps: [
        {
          gives: 'still read as low',
          formula: 'V = VDD · R_s / (R_s + R_pull)',
          numbers: `${volts(board.supplyV.max)} · ${ohms(SERIES_OHM)} / (${ohms(SERIES_OHM)} + ${ohms(nearestIn('E24', PULL_OHM))})`,
          result: `${volts(low)} of ${volts(board.input.lowRatio * board.supplyV.min)}`,
        },
        {
          gives: 'current at the pin from a spike of 30 V',
          formula: '(30 V − V_clamp) / R_s',
          numbers: `30 V, ${ohms(SERIES_OHM)}`,
          result: engineering((30 - 3.6) / SERIES_OHM, 'A'),
        },
      ],
      remedies: [
        {
          label: `Add ${missing.map((m) => m.short).join(', ')}`,
          edits: missing.flatMap((m) => m.edits),
        },
      ],
    }),
  ]
}

/** What an input at a long wire should have and does not. */
function missingAt(design: Design, line: PlanLine): { words: string; short: string; edits: EditBody[] }[] {
  const names = freeNames(design, 'R', 'D', 'R')
  const add = (component: AddedComponent, id = componentIdOf(line.key, component.type)): EditBody => ({
    kind: 'add-component',
    componentId: id,
    component,
  })
  const old = addedOn(design, line.key, 'pull')
  const out = []
  if (!addedOn(design, line.key, 'series') && !addedOn(design, line.key, 'divider'))
    out.push({
      words: 'a series resistor',
      short: ohms(SERIES_OHM),
      edits: [add({ type: 'series', line: line.key, names: [names[0]], ohm: SERIES_OHM, tolerance: 0.05 })],
    })
  if (!addedOn(design, line.key, 'clamp'))
    out.push({
      words: 'a clamp',
      short: 'clamp',
      edits: [add({ type: 'clamp', line: line.key, names: [names[1]] })],
    })
  if (line.terminal.pull !== undefined && !line.pulls.some((p) => p.ohm <= 4700)) {
    const level = line.terminal.pull === 'down' ? 'low' : 'high'
    const own: [string] = old?.value.names ?? [names[2]]
    const pull = add({ type: 'pull', line: line.key, names: own, level, ohm: PULL_OHM, tolerance: 0.05 }, old?.id)
    out.push({
      words: 'a stronger pull',
      short: '3.3 kΩ pull',
      edits: [...(old ? [{ kind: 'remove-component' as const, componentId: old.id }] : []), pull],
    })
  }
  return out
}

const OUTPUT_OHM = 100

/** A long wire at an output, or at a voltage that is measured. */
function otherLong({ design }: CheckContext, line: PlanLine): Reported[] {
  const { cableM, outdoor } = line.part
  const analog = line.terminal.needs === 'analog'
  const weak = (line.terminal.input?.maxA ?? 0) <= 0.005
  const series = addedOn(design, line.key, 'series') || addedOn(design, line.key, 'divider')
  const clamp = addedOn(design, line.key, 'clamp')
  const capacitor = addedOn(design, line.key, 'capacitor')
  const [r, d, c] = freeNames(design, 'R', 'D', 'C')
  const edits: EditBody[] = [
    ...(series || (analog ? line.terminal.swings !== undefined : !weak)
      ? []
      : [
          {
            kind: 'add-component' as const,
            componentId: componentIdOf(line.key, 'series'),
            component: {
              type: 'series' as const,
              line: line.key,
              names: [r] as [string],
              ohm: analog ? SERIES_OHM : OUTPUT_OHM,
              tolerance: 0.01,
            },
          },
        ]),
    ...(clamp || !outdoor
      ? []
      : [
          {
            kind: 'add-component' as const,
            componentId: componentIdOf(line.key, 'clamp'),
            component: { type: 'clamp' as const, line: line.key, names: [d] as [string] },
          },
        ]),
    ...(capacitor || !analog || line.terminal.swings || line.kind.channels.some((x) => isKey(x.driver))
      ? []
      : [
          {
            kind: 'add-component' as const,
            componentId: componentIdOf(line.key, 'capacitor'),
            component: { type: 'capacitor' as const, line: line.key, names: [c] as [string], farad: 1e-7 },
          },
        ]),
  ]
  if (edits.length === 0) return []
  const words = edits
    .map((e) => (e.kind === 'add-component' ? e.component.type : ''))
    .map(
      (t) =>
        ({ series: analog ? ohms(SERIES_OHM) : ohms(OUTPUT_OHM), clamp: 'clamp', capacitor: '100 nF' })[t as 'series'],
    )
    .join(', ')
  return [
    report(line.key, {
      severity: outdoor ? 'fix' : 'note',
      ...about(design, line),
      sentence: analog
        ? `${line.part.label} comes in over ${cableM} m: what the cable picks up is measured as well.`
        : `${line.part.label} is driven over ${cableM} m${outdoor ? ' outside' : ''}: the cable rings, and what it picks up comes back to the pin.`,
      remedies: [{ label: `Add ${words} at the board`, edits }],
    }),
  ]
}
