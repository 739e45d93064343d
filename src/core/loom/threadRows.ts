import type { Catalog } from '../catalog/catalog'
import { traitsOf } from '../catalog/drivers'
import { farStart } from '../catalog/startStates'
import type { Finding } from '../checks/finding'
import type { Access, Channel, LineTerminal } from '../catalog/part'
import { type Design, inOrder, type Signal } from '../model/design'
import { matrixKey } from '../catalog/matrixKey'
import { planKey } from '../lines/lines'
import { type FeedRail, railsOf } from '../power/rails'
import { channelOf } from '../publish/channelOf'
import { fixed, signed } from '../units/format'
import { unitFactor } from '../units/convert'
import type { Wire, Wiring } from '../wiring/netlist'

export const COLUMNS = ['part', 'terminals', 'wires', 'pins', 'conditioning', 'calibration', 'entity', 'now'] as const
export type Column = (typeof COLUMNS)[number]

/**
 * `settled` is woven, `open` still to be done, `contested` has a stop or fix standing against it, `none` does not
 * apply.
 */
export type CellState = 'settled' | 'open' | 'contested' | 'none'
export interface Cell {
  fact: string
  detail: string
  state: CellState
}

export interface ThreadRow {
  signalId: string
  signal: Signal
  partLabel: string
  access: Access
  channel: Channel
  cells: Record<Exclude<Column, 'now'>, Cell>
  woven: boolean
}

const BENCH_COLUMN: Record<Finding['bench'], Column> = {
  parts: 'part',
  pins: 'pins',
  wires: 'wires',
  program: 'conditioning',
  tune: 'calibration',
  publish: 'entity',
}

/** One row per signal: what stands in each column of the loom and how far the thread is woven. */
export function threadRows(
  design: Design,
  catalog: Catalog,
  wiring: Wiring,
  findings: readonly Finding[],
): ThreadRow[] {
  const board = catalog.boards[design.board.id]
  const rails = board ? railsOf(design, board, catalog) : []
  return inOrder(design.signals).flatMap(({ id, value: signal }): ThreadRow[] => {
    const part = design.parts[signal.partId]
    const kind = part && catalog.parts[part.kind]
    const channel = channelOf(design, catalog, signal)
    if (!part || !kind || !channel) return []
    // A key of a matrix is where its row crosses its column: the other lines are its neighbours'.
    const crossing = channel.driver === 'key' ? matrixKey(kind, channel) : null
    const own = crossing ? [crossing.row, crossing.column] : channel.lines
    const terminals = own.flatMap((t) =>
      kind.terminals.filter((x): x is LineTerminal => x.id === t && x.role === 'line'),
    )
    const keys = terminals.flatMap((t) => planKey(signal.partId, part, t) ?? [])
    const labels = own.map((t) => kind.terminals.find((x) => x.id === t)?.label ?? t)
    const contested = new Set(
      findings.filter((f) => f.signalId === id && f.severity !== 'note').map((f) => BENCH_COLUMN[f.bench]),
    )
    const wires = wiring.wires.filter((w) => w.line !== null && keys.includes(w.line))
    const pins = keys.map((key) => design.plan.pins[key])
    const planned = pins.every((p) => p !== undefined)
    const shown = [...new Set(pins)]
    const locked = keys.filter((k) => k in design.locks).length

    const howPlanned = planned ? 'planned' : ''
    const cells: ThreadRow['cells'] = {
      part: { fact: part.label, detail: '', state: 'settled' },
      terminals: {
        fact: labels.length > 4 ? `${labels.length} lines` : labels.join('·') || 'none',
        detail: feedWords(design, signal.partId, kind, rails),
        state: 'settled',
      },
      wires: wiresCell(design, wires, wiring, keys, planned),
      pins: planned
        ? {
            fact: shown.length > 4 ? `${shown.length} pins` : shown.join('·') || 'none',
            detail: locked > 0 ? 'locked by you' : howPlanned,
            state: 'settled',
          }
        : { fact: pins.map((p) => p ?? '–').join('·'), detail: 'no pin yet', state: 'open' },
      conditioning: conditioningCell(signal, channel, design.signals[signal.of ?? '']),
      calibration: calibrationCell(signal, channel.access, channel.unit),
      entity: signal.publish.entity
        ? { fact: signal.name, detail: `…/${signal.slug}`, state: 'settled' }
        : { fact: 'not published', detail: `…/${signal.slug}`, state: 'open' },
    }
    for (const column of contested) {
      if (column !== 'now') cells[column] = { ...cells[column], state: 'contested' }
    }
    const woven = Object.values(cells).every((c) => c.state === 'settled' || c.state === 'none')
    return [{ signalId: id, signal, partLabel: part.label, access: channel.access, channel, cells, woven }]
  })
}

function feedWords(
  design: Design,
  partId: string,
  kind: { terminals: readonly { id: string; role: string }[] },
  named: readonly FeedRail[],
): string {
  const feeds = design.parts[partId]?.feeds ?? {}
  const rails = [
    ...new Set(
      kind.terminals.flatMap((t) =>
        t.role === 'supply' && feeds[t.id] !== undefined ? [named.find((r) => r.id === feeds[t.id])?.tag ?? ''] : [],
      ),
    ),
  ]
  return rails.length > 0 ? `fed ${rails.join(' and ')}` : 'no supply'
}

function wiresCell(design: Design, wires: Wire[], wiring: Wiring, keys: string[], planned: boolean): Cell {
  if (wires.length === 0 || !planned) return { fact: 'no wire', detail: 'waits for its pin', state: 'open' }
  const stored = wires.map((w) => design.wires[w.key])
  const numbers = stored.flatMap((w) => (w ? [w.number] : [])).sort((a, b) => a - b)
  const made = stored.filter((w) => w?.made).length
  const between = wiring.components
    .filter((c) => c.line !== null && keys.includes(c.line))
    .map((c) => (c.what === 'resistor' ? c.value.replace(/ Ω.*$|Ω.*$/, '') : c.name))
  const run = between.length > 0 ? between.map((v) => v.trim()).join(' + ') : 'direct'
  const named = ranges(numbers)
  return {
    fact: named.length > 10 ? `${numbers.length} wires` : named,
    detail: made === wires.length ? `${run}, made` : run,
    state: 'settled',
  }
}

/** `[1, 2, 3, 7]` → `W1–3 · W7`. */
function ranges(numbers: number[]): string {
  const runs: [number, number][] = []
  for (const n of numbers) {
    const last = runs.at(-1)
    if (last && last[1] === n - 1) last[1] = n
    else runs.push([n, n])
  }
  return runs.map(([a, b]) => (a === b ? `W${a}` : `W${a}–${b}`)).join(' · ')
}

const AT_START: Record<Signal['conditioning']['atStart'], string> = {
  off: 'off at start',
  on: 'on at start',
  last: 'as it was',
  follow: 'as its input',
  opposite: 'opposite of its input',
}

function conditioningCell({ conditioning: c }: Signal, channel: Channel, source: Signal | undefined): Cell {
  const { access } = channel
  if (access === 'output')
    return {
      fact: traitsOf(channel.driver).far ? farStart(c) : AT_START[c.atStart],
      detail: c.longestOnS > 0 ? `at most ${c.longestOnS} s on` : 'no longest on-time',
      state: 'settled',
    }
  if (c.levels)
    return {
      fact: `made of ${source?.tag ?? '–'}`,
      detail: `${c.levels.words.length} words`,
      state: 'settled',
    }
  if (access === 'state')
    return {
      fact: c.debounceMs > 0 ? 'debounced' : 'as it comes',
      detail: c.debounceMs > 0 ? `${c.debounceMs} ms` : 'told by the part',
      state: 'settled',
    }
  if (access === 'event')
    return {
      fact: c.debounceMs > 0 ? 'debounced' : 'as it comes',
      detail: [...(c.debounceMs > 0 ? [`${c.debounceMs} ms`] : []), c.patterns.join(', ')].join(', '),
      state: 'settled',
    }
  const words = [
    ...(c.median > 1 ? [`median ${c.median}`] : []),
    ...(c.averageS > 0 ? [`average ${c.averageS} s`] : []),
  ]
  return {
    fact: words.join(', ') || 'as read',
    detail: c.mountM === null ? '' : `hung at ${fixed(c.mountM * 1000, 0)} mm`,
    state: 'settled',
  }
}

function calibrationCell(signal: Signal, access: Access, readingUnit: string): Cell {
  if (access !== 'reading') return { fact: '', detail: '', state: 'none' }
  const { calibration, publish } = signal
  if (!calibration) return { fact: 'as sold', detail: 'not calibrated', state: 'open' }
  const scale = unitFactor(readingUnit, publish.unit)
  return {
    fact: `×${fixed(calibration.gain, 3)} ${signed(calibration.offset * scale, publish.unit === 'mm' ? 1 : 2)}`,
    detail: `${publish.unit} · ${calibration.points} ${calibration.points === 1 ? 'pair' : 'pairs'}`,
    state: 'settled',
  }
}
