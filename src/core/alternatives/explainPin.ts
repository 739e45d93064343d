import { type Board, pinByLabel, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { Design, LineKey } from '../model/design'
import { consequence } from './consequence'
import { judgePin } from '../pins/judgePin'
import { BUS_WORDS, lineName, type PlanLine, planLines } from '../lines/lines'

export interface PinReason {
  line: LineKey
  pin: string | null
  /** One sentence: why this pin. */
  sentence: string
  /** Other pins it could have, cheapest first, each with what it would cost more and why. */
  others: { pin: string; extra: number; why: string; takenBy: string | null }[]
  /** Pins it cannot have and why. */
  refused: { pin: string; reason: string }[]
  /** What the cheapest other pin would bring, with all that follows from it; null when there is none. */
  next: { pin: string; words: string } | null
}

/** Why a line has the pin it has, what else it could have, and what it cannot. */
export function explainPin(design: Design, catalog: Catalog, key: LineKey): PinReason | null {
  const board = catalog.boards[design.board.id]
  const lines = planLines(design, catalog)
  const line = lines.find((l) => l.key === key)
  if (!board || !line) return null
  const label = design.plan.pins[key]
  const pin = label === undefined ? undefined : pinByLabel(board, label)
  const mine = pin && judgePin(board, pin, line)
  const myCost = mine?.fits ? mine.cost : 0
  const others: PinReason['others'] = []
  const refused: PinReason['refused'] = []
  for (const candidate of pinsOf(board)) {
    if (candidate.label === label) continue
    const verdict = judgePin(board, candidate, line)
    if (!verdict.fits) refused.push({ pin: candidate.label, reason: verdict.reason })
    else if (design.keptFree[candidate.label]) refused.push({ pin: candidate.label, reason: 'kept free by you' })
    else {
      const worst = [...verdict.weighs].sort((a, b) => b.cost - a.cost)[0]
      others.push({
        pin: candidate.label,
        extra: verdict.cost - myCost,
        why: worst?.why ?? 'nothing against it',
        takenBy: holder(design, lines, candidate.label),
      })
    }
  }
  others.sort((a, b) => a.extra - b.extra || Number(a.takenBy !== null) - Number(b.takenBy !== null))
  return {
    line: key,
    pin: label ?? null,
    sentence: sentence(board, design, line, label),
    others,
    refused,
    next: nextBest(design, catalog, key, others),
  }
}

/** Of the cheapest few the one whose whole consequence is the least. */
function nextBest(design: Design, catalog: Catalog, key: LineKey, others: PinReason['others']): PinReason['next'] {
  if (design.plan.pins[key] === undefined) return null
  const tried = others.slice(0, 4).flatMap(({ pin }) => {
    const c = consequence(design, catalog, key, pin)
    return c.kind === 'possible' && c.opens.length === 0
      ? [{ pin, words: c.words, weight: c.moves.length * 1000 + c.extra }]
      : []
  })
  return tried.sort((a, b) => a.weight - b.weight)[0] ?? null
}

function holder(design: Design, lines: PlanLine[], pin: string): string | null {
  const line = lines.find((l) => design.plan.pins[l.key] === pin)
  return line ? lineName(line) : null
}

function sentence(board: Board, design: Design, line: PlanLine, label: string | undefined): string {
  const name = lineName(line)
  if (label === undefined) return `${name} has no pin yet.`
  const pin = pinByLabel(board, label)
  if (!pin) return `${label} is not on this board.`
  const verdict = judgePin(board, pin, line)
  if (!verdict.fits) return `${name} cannot stay here: ${verdict.reason}.`
  const locked = design.locks[line.key] === label ? 'You locked it here. ' : ''
  const worst = [...verdict.weighs].sort((a, b) => b.cost - a.cost)[0]
  return `${locked}${strength(board, pin.functions.includes('out'), line)}${worst ? ` Against it: ${worst.why}.` : ''}`
}

function strength(board: Board, pinDrives: boolean, line: PlanLine): string {
  const { terminal, bus } = line
  if (terminal.needs === 'analog')
    return board.radios.includes('wifi') ? 'It measures a voltage with the radio on.' : 'It measures a voltage.'
  if (line.wakes) return 'It can end the sleep, which this line is to do.'
  if (bus && bus.kind !== 'one-wire' && bus.role !== 'cs' && board.peripherals[bus.kind].routing === 'fixed')
    return `Silicon ties ${bus.role.toUpperCase()} of the ${BUS_WORDS[bus.kind]} controller to it.`
  if (terminal.hazard) return 'Quiet while the chip starts, and what hangs on it is held off until the program runs.'
  if (terminal.board === 'reads' && !pinDrives)
    return 'It only reads, and so does this line: the pins that can do more stay free.'
  if (terminal.pull) return 'The pull it needs is inside the chip, so no resistor has to be added.'
  if (terminal.needs === 'pwm')
    return 'It gives a pulse-width signal, is quiet at the start, and shares its channel with nobody.'
  if (terminal.board === 'both')
    return 'It reads and drives, is quiet at the start, and nothing on the board hangs on it.'
  return terminal.board === 'reads'
    ? 'It reads, is quiet at the start, and nothing on the board hangs on it.'
    : 'It drives, is quiet at the start, and nothing on the board hangs on it.'
}
