import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { allLines } from '../../lines/lines'
import { addedSchema, type Design, idSchema, placeOf } from '../../model/design'
import { railsOf } from '../../power/rails'
import { COMPONENT_WORDS } from '../componentWords'
import { designEdit } from '../designEdit'
import { railWords } from '../names'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('add-component'), componentId: idSchema, component: addedSchema })
type Edit = z.infer<typeof schema>

/** A component the design adds: in a line, at a rail or across a load. */
export const addComponent = designEdit({
  schema,
  touches: ['added'],
  apply: componentAdded,
  words: (edit) => `add ${COMPONENT_WORDS[edit.component.type]} ${edit.component.names.join(', ')}`,
})

function componentAdded(design: Design, edit: Edit, catalog: Catalog): Step {
  const { component } = edit
  const board = catalog.boards[design.board.id]
  if (edit.componentId in design.added) return refuse('this component is in the design already', 'a new id')
  if ('line' in component && !allLines(design, catalog).some((l) => l.key === component.line))
    return refuse('its line is no longer in the design', 'a line that is')
  if ('rail' in component && board && !railsOf(design, board, catalog).some((r) => r.id === component.rail))
    return refuse(
      `there is no rail “${railWords(design, component.rail)}”`,
      railsOf(design, board, catalog)
        .map((r) => r.name)
        .join(', '),
    )
  if (Object.values(design.added).some((c) => placeOf(c) === placeOf(component) && c.type === component.type))
    return refuse(`there is a ${component.type} already`, 'removing the other first')
  const names = Object.values(design.added).flatMap((c): string[] => [...c.names])
  if (component.type === 'feed-diode' && component.rail !== design.boardFeed)
    return refuse('it belongs into the feed of the board', design.boardFeed ?? 'a board that is fed from outside')
  if ('part' in component && !catalog.parts[design.parts[component.part]?.kind ?? '']?.load)
    return refuse('it belongs across a load', 'a part that is a load')
  const twice = component.names.find((n) => names.includes(n))
  if (twice !== undefined) return refuse(`${twice} is the name of another component`, 'a free name')
  return { ...design, added: { ...design.added, [edit.componentId]: component } }
}
