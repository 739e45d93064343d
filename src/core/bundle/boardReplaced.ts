import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../model/design'
import { channelOf } from '../publish/channelOf'

export interface BoardReplaced {
  /** What the new board takes over as it is. */
  stays: string[]
  /** What belonged to the dead board itself and has to be looked at again. */
  again: string[]
  /** Inputs of its power that were measured on the dead board, by id. */
  measured: string[]
}

/** Inputs of its power that are the board’s own; those of parts and cells stay. */
const OF_BOARD = /^(asleepA|cpuA|radioA|listenA|interpreterS|filesS|joinS|loginS|backS)/

/** What another board in the place of this node’s takes over, and what it cannot. */
export function boardReplaced(design: Design, catalog: Catalog): BoardReplaced {
  const signals = inOrder(design.signals)
  const calibrated = signals.filter((s) => s.value.calibration)
  const atTheChip = signals.filter(({ value }) => {
    const channel = channelOf(design, catalog, value)
    return channel?.driver === 'adc' || channel?.driver === 'ladder'
  })
  const tags = (list: typeof signals) => list.map((s) => s.value.tag).join(', ')
  const kept = calibrated.filter((s) => !atTheChip.includes(s))
  const doubtful = calibrated.filter((s) => atTheChip.includes(s))
  const open = atTheChip.filter((s) => !s.value.calibration)
  const measured = Object.keys(design.measured).filter((id) => OF_BOARD.test(id))
  const totals = signals.filter(({ value }) => value.channel === 'total')
  return {
    stays: [
      `the name ${design.name}, every topic and entity, and all history`,
      'the login by its name, with a new password; the node’s own key',
      'wiring, pins, rules and guards: the same terminals to the same pins',
      ...(kept.length > 0 ? [`calibration of ${tags(kept)}: it belongs to the part`] : []),
    ],
    again: [
      ...(doubtful.length > 0
        ? [
            `calibration of ${tags(doubtful)}: it holds the converter of the dead board as well; compare one pair, and take the old one out where they differ`,
          ]
        : []),
      ...(open.length > 0
        ? [`${tags(open)}: the chip’s converters differ by some per cent; look at one known value`]
        : []),
      ...(measured.length > 0
        ? [
            `${measured.length === 1 ? 'one input' : `${measured.length} inputs`} of its power measured on the dead board`,
          ]
        : []),
      ...(totals.length > 0 ? [`the total of ${tags(totals)}: it was kept on the dead board and begins anew`] : []),
      'its hardware address: where the network gives a fixed lease by it, enter the new one there',
    ],
    measured,
  }
}
