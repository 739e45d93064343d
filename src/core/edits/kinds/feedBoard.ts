import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import type { Design } from '../../model/design'
import { railsOf } from '../../power/rails'
import { freeNames } from '../../wiring/componentNames'
import { designEdit } from '../designEdit'
import { railWords } from '../names'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('feed-board'), rail: z.string().max(50).nullable() })

/** What feeds the board in place of USB: a rail that begins at a part, never one of the board's own. */
export const feedBoard = designEdit({
  schema,
  touches: ['boardFeed', 'added'],
  apply: (design, edit, catalog) => boardFed(design, edit.rail, catalog),
  words: (edit, design) =>
    edit.rail === null ? 'feed the board by USB' : `feed the board from ${railWords(design, edit.rail)}`,
})

function boardFed(design: Design, rail: string | null, catalog: Catalog): Step {
  const board = catalog.boards[design.board.id]
  if (rail === null || !board)
    return {
      ...design,
      boardFeed: null,
      added: Object.fromEntries(Object.entries(design.added).filter(([, c]) => c.type !== 'feed-diode')),
    }
  const sources = railsOf(design, board, catalog).filter((r) => r.partId !== null && r.through === null)
  const of = sources.find((r) => r.id === rail)
  const { maxV } = board.supply
  const accepts =
    sources
      .filter((r) => r.max <= maxV && !r.ac && r.isolated)
      .map((r) => r.name)
      .join(', ') || 'a part that feeds, within what the board stands'
  if (!of) return refuse(`nothing begins a rail “${rail}”`, accepts)
  if (!of.isolated)
    return refuse(
      `${of.name} is not proven to be isolated from the mains: it may never feed a board that a hand or a cable touches`,
      accepts,
    )
  if (of.ac) return refuse(`${of.name} is alternating; the board takes direct current`, accepts)
  if (of.max > maxV) return refuse(`the board stands ${maxV} V at its supply; ${of.name} reaches ${of.max} V`, accepts)
  // The diode that keeps it and USB apart stays with what feeds the board.
  const added = Object.fromEntries(
    Object.entries(design.added).filter(([, c]) => c.type !== 'feed-diode' || c.rail === rail),
  )
  const diode =
    board.supply.behind === 'nothing' || Object.values(added).some((c) => c.type === 'feed-diode')
      ? {}
      : {
          [`fd${rail.replace(/[^a-z0-9]/g, '')}`.slice(0, 24)]: {
            type: 'feed-diode' as const,
            rail,
            names: freeNames({ ...design, added }, 'D'),
          },
        }
  return { ...design, boardFeed: rail, added: { ...added, ...diode } }
}
