import { pinByLabel } from '../catalog/board'
import type { PartKind } from '../catalog/part'
import { allLines, type PlanLine } from '../lines/lines'
import type { DesignPart } from '../model/design'
import { analogPath, pinVolts } from '../wiring/analogPath'
import type { DriverContext } from './driverContext'
import { terminalPin } from './terminalPin'

/** The chip's pin, the voltage of its highest code and what stands there at the nominal supply, V. */
export interface MeasuredSupply {
  pin: number
  fullV: number
  nominalV: number
}

/**
 * Where the supply is measured that a line follows. Null where the line gives a voltage of its own, where the converter
 * is itself referred to the supply, and where nothing measures the same rail at a pin of the board.
 */
export function supplyMeasured(context: DriverContext): MeasuredSupply | null {
  const { design, board, catalog, channel, part, kind } = context
  const follows = 'analog' in channel && channel.analog === 'share' && context.hosted() === null
  if (!follows || !part || board.analog.reference === 'supply') return null
  const rail = fedFrom(part, kind)
  if (rail === undefined) return null
  const taps = allLines(design, catalog).filter((l) => fedFrom(l.part, l.kind) === rail && !l.hosted)
  for (const line of taps) {
    const pin = pinByLabel(board, terminalPin(design, line.partId, line.kind, line.terminal.id, catalog) ?? '')
    const share = shareShown(line)
    if (!pin || share === null) continue
    const path = analogPath(design, catalog, board, line)
    return { pin: pin.chip, fullV: path.converter.fullV, nominalV: pinVolts(path, path.supplyV * share) }
  }
  return null
}

function fedFrom(part: DesignPart, kind: PartKind): string | undefined {
  return part.feeds[kind.terminals.find((t) => t.role === 'supply')?.id ?? '']
}

/** What part of its supply a line shows; null where it is no measure of it. */
function shareShown({ kind, terminal }: PlanLine): number | null {
  const channel = kind.channels.find((c) => c.quantity === 'supply' && c.lines[0] === terminal.id)
  if (channel?.access !== 'reading' || !terminal.spanV) return null
  return (terminal.spanV.max - terminal.spanV.min) / (channel.range.max - channel.range.min)
}
