import { type Board, pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Channel, type PartKind, terminalOf } from '../catalog/part'
import { addedOn, type Design, inOrder, lineKeyOf, type Signal } from '../design/design'
import { canonicalJson } from '../hash/canonicalJson'
import { sha256Hex } from '../hash/sha256Hex'
import { pullServes } from '../pins/judgePin'
import { pinOf } from '../pins/lines'
import { terminalThrough } from '../pins/terminalThrough'
import { type BrokerAddress, channelOf, describe, type ThingDescription } from '../publish/describe'
import { unitFactor } from '../units/convert'
import { type NodeFile, type NodeFileSignal, nodeFileSchema } from './nodeFile'

export interface Compiled {
  file: NodeFile
  /** Canonical text of the file: what goes to the board, byte for byte. */
  text: string
  /** SHA-256 of `text`. */
  hash: string
  td: ThingDescription
}

export type CompileResult = { ok: true; compiled: Compiled } | { ok: false; reasons: string[] }

/** The node file of a design, or every reason why it cannot be written yet. Same design, revision and broker: same bytes. */
export function compile(design: Design, catalog: Catalog, broker: BrokerAddress, revision: number): CompileResult {
  const board = catalog.boards[design.board.id]
  if (!board) return { ok: false, reasons: [`board ${design.board.id} is not on the shelf`] }
  const reasons: string[] = []
  const signals: NodeFileSignal[] = []
  for (const { value: signal } of inOrder(design.signals)) {
    const part = design.parts[signal.partId]
    const kind = part && catalog.parts[part.kind]
    const channel = channelOf(design, catalog, signal)
    if (!part || !kind || !channel) {
      reasons.push(`${signal.tag}: its part is not on the shelf`)
      continue
    }
    const missing = channel.lines.filter((t) => terminalPin(design, signal.partId, kind, t) === undefined)
    if (missing.length > 0) {
      reasons.push(`${signal.tag}: ${missing.map((t) => kind.terminals.find((x) => x.id === t)?.label ?? t).join(', ')} of ${part.label} has no pin`)
      continue
    }
    const compiled = compileSignal(design, board, kind, channel, signal)
    if (typeof compiled === 'string') reasons.push(`${signal.tag}: ${compiled}`)
    else signals.push(compiled)
  }
  if (reasons.length > 0) return { ok: false, reasons }
  const file = nodeFileSchema.parse({
    format: 'vivid-node/node-file', version: 1, revision, id: design.id, node: design.slug, root: broker.root, board: board.id,
    broker: { host: broker.host, port: broker.port, keepAliveS: design.network.keepAliveS },
    network: design.network.ref, healthS: 30, signals,
  })
  const text = canonicalJson(file)
  return { ok: true, compiled: { file, text, hash: sha256Hex(text), td: describe(design, catalog, broker) } }
}

function compileSignal(design: Design, board: Board, kind: PartKind, channel: Channel, signal: Signal): NodeFileSignal | string {
  const pin = (terminal: string): number => pinByLabel(board, terminalPin(design, signal.partId, kind, terminal) ?? '')?.chip ?? -1
  const none = `the runtime has no driver for ${kind.name.toLowerCase()} yet`
  const { slug, conditioning: c, publish } = signal
  switch (channel.access) {
    case 'reading': {
      const common = {
        slug, access: 'reading' as const,
        chain: {
          ...channel.range, median: c.median, averageS: c.averageS, mountM: c.mountM,
          gain: signal.calibration?.gain ?? 1, offset: signal.calibration?.offset ?? 0,
        },
        publish: { everyS: publish.intervalS, change: publish.change, decimals: publish.decimals, factor: unitFactor(channel.unit, publish.unit) },
      }
      if (channel.driver === 'onewire') return { ...common, driver: 'onewire', pins: { data: pin('data') } }
      if (channel.driver === 'ranger') return { ...common, driver: 'ranger', pins: { trig: pin('trig'), echo: pin('echo') }, airC: Number(design.parts[signal.partId]?.settings.airC ?? 20) }
      const line = analogLine(design, board, kind, channel, signal.partId)
      return line ? { ...common, driver: 'adc', pins: { a: pin(channel.lines[0] ?? '') }, ...line } : none
    }
    case 'state': return channel.driver !== 'contact' ? none : {
      slug, access: 'state', driver: 'contact', pins: { a: pin(channel.lines[0] ?? '') }, activeLow: isActiveLow(design, kind, channel, signal.partId),
      pull: pullWanted(design, board, kind, signal.partId, channel.lines[0] ?? ''), debounceMs: c.debounceMs, holdS: channel.proposes.holdS ?? 0, publish: { everyS: publish.intervalS },
    }
    case 'output': {
      const common = { slug, access: 'output' as const, activeLow: isActiveLow(design, kind, channel, signal.partId), atStart: c.atStart, longestOnS: c.longestOnS, publish: { everyS: publish.intervalS } }
      const terminal = terminalOf(kind, channel.lines[0] ?? '')
      if (channel.driver === 'relay') return { ...common, driver: 'relay', pins: { in: pin(channel.lines[0] ?? '') } }
      if (channel.driver !== 'pwm' || channel.lines.length !== 1 || terminal?.role !== 'line' || terminal.pwmHz === undefined) return none
      return { ...common, driver: 'pwm', pins: { a: pin(terminal.id) }, hz: terminal.pwmHz }
    }
    case 'event': {
      if (channel.driver === 'button') {
        const line = channel.lines[0] ?? ''
        return { slug, access: 'event', driver: 'button', pins: { a: pin(line) }, activeLow: isActiveLow(design, kind, channel, signal.partId), pull: pullWanted(design, board, kind, signal.partId, line), debounceMs: c.debounceMs }
      }
      const key = matrixKey(kind, channel)
      return key ? { slug, access: 'event', driver: 'key', pins: { row: pin(key.row), column: pin(key.column) }, pull: pullWanted(design, board, kind, signal.partId, key.column), debounceMs: c.debounceMs } : none
    }
  }
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

/** The straight line from volts at the pin to the reading, through the design's divider; null where the part gives no straight line. */
function analogLine(design: Design, board: Board, kind: PartKind, channel: Extract<Channel, { access: 'reading' }>, partId: string): { fullV: number; atZero: number; perVolt: number } | null {
  const terminal = terminalOf(kind, channel.lines[0] ?? '')
  if (channel.driver !== 'adc' || channel.analog === undefined || terminal?.role !== 'line' || !terminal.spanV) return null
  const divider = addedOn(design, lineKeyOf(partId, terminal.id), 'divider')?.value
  const share = divider ? divider.bottomOhm / (divider.topOhm + divider.bottomOhm) : 1
  const { fullV } = board.analog
  if (channel.analog === 'volts') return { fullV, atZero: 0, perVolt: 1 / share }
  const perVolt = (channel.range.max - channel.range.min) / (terminal.spanV.max - terminal.spanV.min)
  return { fullV, atZero: channel.range.min - perVolt * terminal.spanV.min, perVolt: perVolt / share }
}

/** Level at the pin that means “on”, after what stands in the run. */
function isActiveLow(design: Design, kind: PartKind, channel: Extract<Channel, { activeLevel: string }>, partId: string): boolean {
  const terminal = terminalOf(kind, channel.lines[0] ?? '')
  const turned = terminal?.role === 'line' && terminalThrough(design, lineKeyOf(partId, terminal.id), terminal).inverted
  return (channel.activeLevel === 'low') !== turned
}

function terminalPin(design: Design, partId: string, kind: PartKind, id: string): string | undefined {
  const terminal = terminalOf(kind, id)
  const part = design.parts[partId]
  return part && terminal?.role === 'line' ? pinOf(design, partId, part, terminal) : undefined
}

/** The internal pull a line needs, or none where a resistor does it. */
function pullWanted(design: Design, board: Board, kind: PartKind, partId: string, terminalId: string): 'up' | 'down' | 'none' {
  const own = terminalOf(kind, terminalId)
  const key = lineKeyOf(partId, terminalId)
  const wanted = own?.role === 'line' ? terminalThrough(design, key, own).terminal.pull : undefined
  const pin = pinByLabel(board, design.plan.pins[key] ?? '')
  return wanted && pin && !addedOn(design, key, 'pull') && pullServes(pin, wanted) && pin.pulls.includes(wanted) ? wanted : 'none'
}

export interface Package { id: string; revision: number; hash: string; text: string; td: ThingDescription }

/** What is sent on `config/set`: three lines of JSON — header, node file verbatim, description verbatim. */
export function packageText({ id, revision, hash, text, td }: Package): string {
  return [canonicalJson({ id, revision, hash }), text, canonicalJson(td)].join('\n')
}
