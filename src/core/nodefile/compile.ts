import { type Board, pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Channel, type PartKind, terminalOf } from '../catalog/part'
import { type Design, inOrder, lineKeyOf, type Signal } from '../design/design'
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
      if (channel.driver !== 'ranger') return none
      return { ...common, driver: 'ranger', pins: { trig: pin('trig'), echo: pin('echo') }, airC: Number(design.parts[signal.partId]?.settings.airC ?? 20) }
    }
    case 'state': return none
    case 'output': return channel.driver !== 'relay' ? none : {
      slug, access: 'output', driver: 'relay', pins: { in: pin(channel.lines[0] ?? '') }, activeLow: isActiveLow(design, kind, channel, signal.partId),
      atStart: c.atStart, longestOnS: c.longestOnS, publish: { everyS: publish.intervalS },
    }
    case 'event': return channel.driver !== 'button' ? none : {
      slug, access: 'event', driver: 'button', pins: { a: pin(channel.lines[0] ?? '') }, activeLow: isActiveLow(design, kind, channel, signal.partId),
      pull: pullWanted(design, board, kind, signal), debounceMs: c.debounceMs,
    }
  }
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

/** The internal pull a bare contact needs, or none where a resistor does it. */
function pullWanted(design: Design, board: Board, kind: PartKind, signal: Signal): 'up' | 'down' | 'none' {
  const terminal = kind.terminals.find((t) => t.role === 'line' && t.pull !== undefined)
  const wanted = terminal?.role === 'line' ? terminal.pull : undefined
  const key = lineKeyOf(signal.partId, terminal?.id ?? '')
  const pin = pinByLabel(board, design.plan.pins[key] ?? '')
  const outside = Object.values(design.added).some((a) => a.type === 'pull' && a.line === key)
  return wanted && pin && !outside && pullServes(pin, wanted) && pin.pulls.includes(wanted) ? wanted : 'none'
}

export interface Package { id: string; revision: number; hash: string; text: string; td: ThingDescription }

/** What is sent on `config/set`: three lines of JSON — header, node file verbatim, description verbatim. */
export function packageText({ id, revision, hash, text, td }: Package): string {
  return [canonicalJson({ id, revision, hash }), text, canonicalJson(td)].join('\n')
}
