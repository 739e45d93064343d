import { addressOf } from '../model/address'
import { type Board, pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Channel, lineAsSet, linesOf, meansOf, type PartKind, terminalOf } from '../catalog/part'
import { addedOn, type Design, inOrder, lineKeyOf, type Signal } from '../model/design'
import { pullServes } from '../pins/judgePin'
import { allLines, hostOf, pinOf } from '../lines/lines'
import { terminalThrough } from '../lines/terminalThrough'
import { unitFactor } from '../units/convert'
import { analogPath, isLoop, sourceLine } from '../wiring/analogPath'
import { chooseLadder, judgeLadder, ladderWish } from '../wiring/ladder'
import { I2C_CHIPS, type NodeFileSignal, SERIAL_CHIPS } from './nodeFile'

/** The field, or nothing while it has its usual value. */
export function kept<K extends string, const V>(key: K, value: V, usual: NoInfer<V>): { [key in K]?: V } {
  return value === usual ? {} : ({ [key]: value } as { [key in K]?: V })
}

/** One signal as the board runs it, or why it cannot be written. */
export function compileSignal(
  design: Design,
  board: Board,
  kind: PartKind,
  channel: Channel,
  signal: Signal,
  catalog: Catalog,
): NodeFileSignal | string {
  const { partId, slug, conditioning: c, publish } = signal
  const chipOf = (label: string | undefined): number => pinByLabel(board, label ?? '')?.chip ?? -1
  const pin = (terminal: string): number => chipOf(terminalPin(design, partId, kind, terminal, catalog))
  const none = `the runtime has no driver for ${kind.name.toLowerCase()} yet`
  const line = channel.lines[0] ?? ''
  const setting = (id: string): number | string =>
    design.parts[partId]?.settings[id] ?? kind.settings.find((s) => s.id === id)?.default ?? 0
  const onBus = () => ({
    pins: { sda: pin('sda'), scl: pin('scl') },
    address: busAddress(design, kind, partId),
    ...muxOf(design, catalog, partId),
  })
  const serial = (chip: keyof typeof BAUD) => {
    const [rx, tx] = ['rx', 'tx'].map(
      (role) => kind.terminals.find((t) => t.role === 'line' && t.bus?.role === role)?.id,
    )
    return {
      pins: { rx: pin(rx ?? ''), ...(tx === undefined ? {} : { tx: pin(tx) }) },
      baud: BAUD[chip],
      uart: uartOf(design, board, catalog, partId, terminalPin(design, partId, kind, rx ?? '', catalog)),
    }
  }
  const pull = (terminal: string) => kept('pull', pullWanted(design, board, kind, partId, terminal), 'none')
  const activeLow = () =>
    'activeLevel' in channel ? kept('activeLow', isActiveLow(design, kind, channel, partId), false) : {}
  const debounceMs = kept('debounceMs', c.debounceMs, 0)
  const presses =
    c.patterns.length === 1 && c.patterns[0] === 'single'
      ? {}
      : { presses: { used: c.patterns, gapMs: c.gapMs, longMs: c.longMs } }
  const wakes = () => {
    if (!design.sleep || design.parts[partId]?.settings.wakes !== 'yes') return {}
    const low = activeLow().activeLow ?? false
    return { wakes: { pin: pin(line), level: low ? 0 : 1, pull: pull(line).pull ?? ('none' as const) } }
  }
  const warmUp = kept('warmUpS', kind.warmUp?.s ?? 0, 0)
  switch (channel.access) {
    case 'reading': {
      const common = {
        slug,
        ...warmUp,
        access: 'reading' as const,
        chain: {
          ...channel.range,
          ...kept('median', c.median as number, 1),
          ...kept('averageS', c.averageS, 0),
          ...(c.mountM === null ? {} : { mountM: c.mountM }),
          ...kept('gain', signal.calibration?.gain ?? 1, 1),
          ...kept('offset', signal.calibration?.offset ?? 0, 0),
        },
        publish: {
          everyS: publish.intervalS,
          ...kept('change', publish.change, 0),
          ...kept('decimals', publish.decimals, 0),
          ...kept('factor', unitFactor(channel.unit, publish.unit), 1),
        },
      }
      switch (channel.driver) {
        case 'onewire':
          return { ...common, driver: 'onewire', pins: { data: pin('data') }, ...romOf(design, catalog, partId) }
        case 'ranger':
          return {
            ...common,
            driver: 'ranger',
            pins: { trig: pin('trig'), echo: pin('echo') },
            airC: Number(setting('airC') || 20),
          }
        case 'counter': {
          const perHz = COUNTED[channel.unit]?.(Number(setting('perUnit')))
          const of = kept('of', channel.id === 'total' ? 'total' : 'rate', 'rate')
          return perHz === undefined
            ? none
            : { ...common, driver: 'counter', pins: { a: pin(line) }, ...pull(line), ...debounceMs, ...of, perHz }
        }
        case 'i2c': {
          const chip = I2C_CHIPS.find((x) => x === channel.chip)
          const of = I2C_READINGS.find((x) => x === channel.id)
          return chip && of ? { ...common, driver: 'i2c', ...onBus(), chip, of } : none
        }
        case 'spi': {
          const on = (role: string) =>
            pin(kind.terminals.find((t) => t.role === 'line' && t.bus?.role === role)?.id ?? '')
          return channel.chip === 'thermocouple'
            ? {
                ...common,
                driver: 'spi',
                pins: { sck: on('sck'), cs: on('cs'), miso: on('miso') },
                chip: 'thermocouple',
              }
            : none
        }
        case 'serial': {
          const chip = SERIAL_CHIPS.find((x) => x === channel.chip)
          return chip ? { ...common, driver: 'serial', ...serial(chip), chip } : none
        }
        case 'adc': {
          const volts = analogLine(design, board, catalog, kind, channel, partId)
          if (!volts)
            return `${terminalOf(kind, line)?.label ?? line} of ${design.parts[partId]?.label ?? kind.name} lacks the resistor that makes its voltage; the wires bench offers it`
          const host = hostedAt(design, catalog, partId, kind)
          const { fullV: _, of: __, ...linear } = volts
          return host
            ? { ...common, driver: 'converter', ...host, ...linear }
            : { ...common, driver: 'adc', pins: { a: pin(line) }, ...volts }
        }
        case 'radio':
          return none
      }
      break
    }
    case 'state': {
      const common = {
        slug,
        ...warmUp,
        access: 'state' as const,
        publish: { everyS: publish.intervalS },
        ...kept('holdS', c.holdS ?? channel.proposes.holdS ?? 0, 0),
      }
      if (channel.driver === 'contact')
        return {
          ...common,
          ...wakes(),
          driver: 'contact',
          pins: { a: pin(line) },
          ...activeLow(),
          ...pull(line),
          ...debounceMs,
        }
      return channel.driver === 'serial' ? { ...common, driver: 'presence', ...serial('presence') } : none
    }
    case 'output': {
      const common = {
        slug,
        access: 'output' as const,
        publish: { everyS: publish.intervalS },
        ...kept('atStart', c.atStart, 'off'),
      }
      const longest = kept('longestOnS', c.longestOnS, 0)
      const terminal = terminalOf(kind, line)
      const hz = terminal?.role === 'line' ? terminal.pwmHz : undefined
      switch (channel.driver) {
        case 'relay':
          return {
            ...common,
            driver: 'relay',
            pins: { in: pin(line) },
            ...activeLow(),
            ...longest,
            ...kept('pulseS', c.pulseS, 0),
            ...(c.atStart === 'follow' && c.follows !== null
              ? { follows: design.signals[c.follows]?.slug ?? slug }
              : {}),
          }
        case 'pwm': {
          if (hz === undefined) return none
          if (channel.lines.length === 2)
            return {
              ...common,
              driver: 'bridge',
              pins: { a: pin(line), b: pin(channel.lines[1] ?? '') },
              hz,
              ...longest,
            }
          return { ...common, driver: 'pwm', pins: { a: pin(line) }, hz, ...activeLow(), ...longest }
        }
        case 'servo':
          return { ...common, driver: 'servo', pins: { a: pin(line) } }
        case 'lamp-string':
          return {
            ...common,
            driver: 'string',
            pins: { a: pin(line) },
            lamps: Math.max(1, Math.round(Number(setting('lamps') || 8))),
          }
        case 'display':
          return { ...common, driver: 'display', ...onBus() }
        case 'radio':
          return none
      }
      break
    }
    case 'event': {
      const common = { slug, ...warmUp, access: 'event' as const }
      switch (channel.driver) {
        case 'button':
          return {
            ...common,
            ...wakes(),
            driver: 'button',
            pins: { a: pin(line) },
            ...activeLow(),
            ...pull(line),
            ...debounceMs,
            ...presses,
          }
        case 'encoder':
          return { ...common, driver: 'encoder', pins: { a: pin(line), b: pin(channel.lines[1] ?? '') }, ...pull(line) }
        case 'radio':
          return { ...common, driver: 'radio', pins: { a: pin(line) } }
        case 'keys': {
          const n = kind.channels.filter((x) => x.driver === 'keys').indexOf(channel)
          if (kind.i2c) return { ...common, driver: 'expander', ...onBus(), bit: n, ...debounceMs, ...presses }
          const key = matrixKey(kind, channel)
          if (key)
            return {
              ...common,
              driver: 'key',
              pins: { row: pin(key.row), column: pin(key.column) },
              ...pull(key.column),
              ...debounceMs,
              ...presses,
            }
          const share = ladderShare(board, kind, n)
          return share
            ? { ...common, driver: 'ladder', pins: { a: pin(line) }, ...share, ...debounceMs, ...presses }
            : none
        }
      }
    }
  }
  return none
}

/** Which of the parts on its wire a thermometer is; where there is only one, nobody asks. */
function romOf(design: Design, catalog: Catalog, partId: string): { rom?: string } {
  const rom = design.parts[partId]?.rom
  if (rom) return { rom }
  const line = allLines(design, catalog).find((l) =>
    l.members.some((m) => m.partId === partId && m.terminal.bus?.kind === 'one-wire'),
  )
  return (line?.members.length ?? 0) > 1 ? { rom: 'unknown' } : {}
}

const BAUD = { dust: 9600, ranger: 9600, presence: 256_000, meter: 9600 } as const
const I2C_READINGS = ['temperature', 'humidity', 'pressure', 'light', 'a0', 'a1', 'a2', 'a3'] as const
/** Reading at one pulse a second, by the unit of the reading and the pulses the part gives for one unit. */
const COUNTED: Record<string, (perUnit: number) => number> = {
  'L/min': (perUnit) => 60 / perUnit,
  '1/min': () => 60,
  L: (perUnit) => 1 / perUnit,
  '1': () => 1,
}

/**
 * Between neighbours of a resistor ladder the bound lies in the middle of the gap. Null where the part is no ladder.
 */
function ladderShare(board: Board, kind: PartKind, n: number): { lowShare: number; highShare: number } | null {
  const terminal = kind.terminals.find((t) => t.role === 'line')
  const keys = kind.channels.filter((c) => c.driver === 'keys').length
  if (terminal?.role !== 'line' || terminal.needs !== 'analog' || keys === 0) return null
  const wish = ladderWish(board, keys)
  const full = 2 ** wish.bits - 1
  const ladder = chooseLadder(wish)
  const spans = [...ladder.keys.map((k, i) => ({ ...k, i })), { low: full * 2, high: full * 2, i: -1 }].sort(
    (a, b) => a.low - b.low,
  )
  const at = spans.findIndex((s) => s.i === n)
  const own = spans[at]
  if (!own) return null
  const open = judgeLadder([1e12], wish).keys[0]?.low ?? full
  const above = at + 2 < spans.length ? (spans[at + 1]?.low ?? full) : open
  const below = spans[at - 1]
  const share = (code: number) => Math.round((code / full) * 1e4) / 1e4
  return { lowShare: below ? share((below.high + own.low) / 2) : -1, highShare: share((own.high + above) / 2) }
}

/** Row and column of a key: keys are numbered along the rows. Null where the part is no matrix. */
function matrixKey(kind: PartKind, channel: Channel): { row: string; column: string } | null {
  const lines = kind.terminals.flatMap((t) => (t.role === 'line' ? [t] : []))
  const [rows, columns] = [lines.filter((t) => t.board === 'drives'), lines.filter((t) => t.board === 'reads')]
  const n = kind.channels.filter((c) => c.driver === 'keys').indexOf(channel)
  const row = rows[Math.floor(n / columns.length)]
  const column = columns[n % columns.length]
  return channel.driver === 'keys' && row && column ? { row: row.id, column: column.id } : null
}

type AnalogFields = Pick<
  Extract<NodeFileSignal, { driver: 'adc' }>,
  'fullV' | 'of' | 'atZero' | 'perVolt' | 'ntc' | 'light'
>

/**
 * From volts at the pin, or at a converter's input, to the reading, through everything in between; null where the part
 * says nothing about it.
 */
function analogLine(
  design: Design,
  board: Board,
  catalog: Catalog,
  kind: PartKind,
  channel: Extract<Channel, { access: 'reading' }>,
  partId: string,
): AnalogFields | null {
  const line = allLines(design, catalog).find((l) => l.partId === partId && l.terminal.id === channel.lines[0])
  if (channel.driver !== 'adc' || channel.analog === undefined || !line?.terminal.spanV) return null
  const path = analogPath(design, catalog, board, line)
  const { fullV } = path.converter
  const { min, max } = channel.range
  const { spanV, sensor } = line.terminal
  const means = meansOf(kind, line.part.settings)
  // Volts of the source are a straight line of the volts at the pin.
  const source = isLoop(line) ? { volts: 1, offsetV: 0 } : sourceLine(path)
  const scaled = (atZeroV: number, perVolt: number): AnalogFields => ({
    fullV,
    ...kept('atZero', round(atZeroV + perVolt * source.offsetV), 0),
    ...kept('perVolt', round(perVolt * source.volts), 1),
  })
  const between = (atLow: number, atHigh: number) => {
    const perVolt = (atHigh - atLow) / (spanV.max - spanV.min)
    return scaled(atLow - perVolt * spanV.min, perVolt)
  }
  const above = {
    pullOhm: path.upOhm,
    supplyV: path.supplyV,
    ...kept('loadOhm', path.downOhm, Infinity),
    ...kept('seriesOhm', path.seriesOhm, 0),
  }
  switch (channel.analog) {
    case 'volts':
      return scaled(0, 1)
    case 'span':
      return means.falls ? between(max, min) : between(min, max)
    case 'falling':
      return between(max, min)
    // A signal that swings about a middle: the whole span is the whole range.
    case 'swing':
      return { fullV, of: 'swing', perVolt: round(((max - min) / (spanV.max - spanV.min)) * source.volts) }
    case 'rms': {
      const burden = addedOn(design, line.key, 'burden')?.value.ohm
      const perVolt = means.bareTurns === undefined ? (channel.perVolt ?? 1) : means.bareTurns / (burden ?? Infinity)
      return perVolt === 0 ? null : { fullV, of: 'rms', perVolt: round(perVolt * source.volts) }
    }
    case 'share':
      return { fullV, perVolt: round(((max - min) / path.supplyV) * source.volts) }
    case 'thermistor': {
      const { betaK = 3950, ohm25 = 10_000 } = line.part.settings
      return path.upOhm === Infinity ? null : { fullV, ntc: { betaK: Number(betaK), ohm25: Number(ohm25), ...above } }
    }
    case 'light':
      return path.upOhm === Infinity || !sensor
        ? null
        : { fullV, light: { brightOhm: sensor.minOhm, darkOhm: sensor.maxOhm, ...above } }
  }
}

/** Nine figures are far beyond any resistor. */
const round = (v: number): number => Number(v.toPrecision(9))

/** Level at the pin that means “on”, after what stands in the run. */
function isActiveLow(
  design: Design,
  kind: PartKind,
  channel: Extract<Channel, { activeLevel: string }>,
  partId: string,
): boolean {
  const terminal = terminalOf(kind, channel.lines[0] ?? '')
  const turned = terminal?.role === 'line' && terminalThrough(design, lineKeyOf(partId, terminal.id), terminal).inverted
  return (channel.activeLevel === 'low') !== turned
}

/** Printed label of the pin a terminal ends at; behind a multiplexer that of the multiplexer's own line. */
export function terminalPin(
  design: Design,
  partId: string,
  kind: PartKind,
  id: string,
  catalog: Catalog,
): string | undefined {
  const terminal = terminalOf(kind, id)
  const part = design.parts[partId]
  if (!part || terminal?.role !== 'line') return undefined
  const hosted = hostOf(design, catalog, part, terminal)
  const hostKind = hosted && catalog.parts[design.parts[hosted.partId]?.kind ?? '']
  if (hosted && hostKind) return terminalPin(design, hosted.partId, hostKind, 'sda', catalog)
  const [behind] = terminal.bus?.kind === 'i2c' && part.bus?.includes(':') ? part.bus.split(':') : []
  const front = behind === undefined ? undefined : design.parts[behind]
  const frontKind = front && catalog.parts[front.kind]
  if (behind === undefined || !frontKind) return pinOf(design, partId, part, terminal)
  const same = frontKind.terminals.find(
    (t) => t.role === 'line' && t.bus?.kind === 'i2c' && t.bus.role === terminal.bus?.role,
  )
  return same ? terminalPin(design, behind, frontKind, same.id, catalog) : undefined
}

/** Bus, address and input of the converter an analog part is put at; null at a pin. */
function hostedAt(design: Design, catalog: Catalog, partId: string, kind: PartKind) {
  const part = design.parts[partId]
  const [line] = linesOf(kind)
  const hosted = part && line && hostOf(design, catalog, part, line)
  const front = hosted && design.parts[hosted.partId]
  const frontKind = front && catalog.parts[front.kind]
  const board = catalog.boards[design.board.id]
  if (!hosted || !front || !frontKind || !board) return null
  const chipOf = (terminal: string) =>
    pinByLabel(board, terminalPin(design, hosted.partId, frontKind, terminal, catalog) ?? '')?.chip ?? -1
  return {
    pins: { sda: chipOf('sda'), scl: chipOf('scl') },
    address: addressOf(front, frontKind),
    ...muxOf(design, catalog, hosted.partId),
    chip: 'adc-48' as const,
    input: hosted.number,
  }
}

function muxOf(design: Design, catalog: Catalog, partId: string): { mux?: { address: number; branch: number } } {
  const [behind, branch] = design.parts[partId]?.bus?.split(':') ?? []
  const front = behind === undefined || branch === undefined ? undefined : design.parts[behind]
  const kind = front && catalog.parts[front.kind]
  return front && kind && branch !== undefined
    ? { mux: { address: addressOf(front, kind), branch: Number(branch) } }
    : {}
}

const busAddress = (design: Design, kind: PartKind, partId: string): number => {
  const part = design.parts[partId]
  return part ? addressOf(part, kind) : 0
}

/** Serial port of the chip: the one its pins are tied to, or the next free one after the console's. */
function uartOf(design: Design, board: Board, catalog: Catalog, partId: string, rxLabel: string | undefined): number {
  const tied = pinByLabel(board, rxLabel ?? '')?.mux.find((m) => m.bus === 'uart')?.controller
  if (board.peripherals.uart.routing === 'fixed' && tied !== undefined) return tied
  const speaking = inOrder(design.parts).filter(({ value }) =>
    catalog.parts[value.kind]?.terminals.some((t) => t.role === 'line' && t.bus?.kind === 'uart'),
  )
  return speaking.findIndex((p) => p.id === partId) + (board.peripherals.uart.console ? 1 : 0)
}

/** The internal pull a line needs, or none where a resistor does it. */
function pullWanted(
  design: Design,
  board: Board,
  kind: PartKind,
  partId: string,
  terminalId: string,
): 'up' | 'down' | 'none' {
  const own = terminalOf(kind, terminalId)
  const key = lineKeyOf(partId, terminalId)
  const settings = design.parts[partId]?.settings ?? {}
  const wanted =
    own?.role === 'line' ? terminalThrough(design, key, lineAsSet(kind, settings, own)).terminal.pull : undefined
  const pin = pinByLabel(board, design.plan.pins[key] ?? '')
  return wanted && pin && !addedOn(design, key, 'pull') && pullServes(pin, wanted) && pin.pulls.includes(wanted)
    ? wanted
    : 'none'
}
