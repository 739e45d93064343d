import { type Board, pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Channel, lineAsSet, linesOf, type PartKind, terminalOf } from '../catalog/part'
import { hostOf } from '../lines/lines'
import { terminalThrough } from '../lines/terminalThrough'
import { addressOf } from '../model/address'
import { addedOn, type Design, type DesignPart, inOrder, lineKeyOf, type Signal } from '../model/design'
import { pullServes } from '../pins/judgePin'
import { omitDefault } from './omitDefault'
import { terminalPin } from './terminalPin'

/** A signal with all that its driver may ask of the design. Pins are the chip's own numbers, −1 where there is none. */
export interface DriverContext<C extends Channel = Channel> {
  design: Design
  board: Board
  catalog: Catalog
  kind: PartKind
  part: DesignPart | undefined
  channel: C
  signal: Signal
  /** First line of the channel. */
  line: string
  pin: (terminal: string) => number
  setting: (id: string) => number | string
  /** Pins, address and multiplexer of a part on a two-wire bus. */
  onBus: () => { pins: { sda: number; scl: number }; address: number; mux?: { address: number; branch: number } }
  /** The same of the converter an analog part is put at; null at a pin. */
  hosted: () => ReturnType<typeof hostedAt>
  serial: (baud: number) => { pins: { rx: number; tx?: number }; baud: number; uart: number }
  pull: (terminal: string) => { pull?: 'up' | 'down' | 'none' }
  activeLow: () => { activeLow?: boolean }
  /** Its pin ends the sleep, where the design wants it to. */
  wakes: () => { wakes?: { pin: number; level: 0 | 1; pull: 'up' | 'down' | 'none' } }
}

/** A signal of a design with what it is of: its board, part and channel. */
export interface SignalIn<C extends Channel = Channel> {
  design: Design
  board: Board
  catalog: Catalog
  kind: PartKind
  channel: C
  signal: Signal
}

export function driverContext<C extends Channel>(of: SignalIn<C>): DriverContext<C> {
  const { design, board, catalog, kind, channel, signal } = of
  const { partId } = signal
  const part = design.parts[partId]
  const line = channel.lines[0] ?? ''
  const chipOf = (label: string | undefined): number => pinByLabel(board, label ?? '')?.chip ?? -1
  const pin = (terminal: string): number => chipOf(terminalPin(design, partId, kind, terminal, catalog))
  const pull = (terminal: string) => omitDefault('pull', pullWanted(design, board, kind, partId, terminal), 'none')
  const activeLow = () =>
    'activeLevel' in channel ? omitDefault('activeLow', isActiveLow(design, kind, channel, partId), false) : {}
  return {
    design,
    board,
    catalog,
    kind,
    part,
    channel,
    signal,
    line,
    pin,
    pull,
    activeLow,
    setting: (id) => part?.settings[id] ?? kind.settings.find((s) => s.id === id)?.default ?? 0,
    onBus: () => ({
      pins: { sda: pin('sda'), scl: pin('scl') },
      address: busAddress(design, kind, partId),
      ...muxOf(design, catalog, partId),
    }),
    hosted: () => hostedAt(design, catalog, partId, kind),
    serial: (baud) => {
      const [rx, tx] = ['rx', 'tx'].map(
        (role) => kind.terminals.find((t) => t.role === 'line' && t.bus?.role === role)?.id,
      )
      return {
        pins: { rx: pin(rx ?? ''), ...(tx === undefined ? {} : { tx: pin(tx) }) },
        baud,
        uart: uartOf(design, board, catalog, partId, terminalPin(design, partId, kind, rx ?? '', catalog)),
      }
    },
    wakes: () =>
      design.sleep && part?.settings.wakes === 'yes'
        ? { wakes: { pin: pin(line), level: activeLow().activeLow ? 0 : 1, pull: pull(line).pull ?? 'none' } }
        : {},
  }
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

/** Serial port of the chip: the one its pins are tied to, or the next free one after the console's. */
function uartOf(design: Design, board: Board, catalog: Catalog, partId: string, rxLabel: string | undefined): number {
  const tied = pinByLabel(board, rxLabel ?? '')?.mux.find((m) => m.bus === 'uart')?.controller
  if (board.peripherals.uart.routing === 'fixed' && tied !== undefined) return tied
  const speaking = inOrder(design.parts).filter(({ value }) =>
    catalog.parts[value.kind]?.terminals.some((t) => t.role === 'line' && t.bus?.kind === 'uart'),
  )
  return speaking.findIndex((p) => p.id === partId) + (board.peripherals.uart.console ? 1 : 0)
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
