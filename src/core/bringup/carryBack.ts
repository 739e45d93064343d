import type { EditBody } from '../edits/edit'
import { addedOn, type Design } from '../model/design'

/** What was made otherwise than drawn at the place of a step, as edits of the design; nothing where nothing was. */
export type MadeSo = { pin: string } | { topOhm: number; bottomOhm: number }

/**
 * Carries back what the hands did: the wire of a line on another pin, or other resistors in its divider. The design then
 * says what is there, and is checked as that.
 */
export function carryBack(design: Design, line: string, made: MadeSo): EditBody[] {
  if ('pin' in made) return design.plan.pins[line] === made.pin ? [] : [{ kind: 'made-otherwise', line, pin: made.pin }]
  const divider = addedOn(design, line, 'divider')
  const { topOhm, bottomOhm } = made
  if (!divider || (divider.value.topOhm === topOhm && divider.value.bottomOhm === bottomOhm)) return []
  return [
    { kind: 'remove-component', componentId: divider.id },
    { kind: 'add-component', componentId: divider.id, component: { ...divider.value, topOhm, bottomOhm } },
  ]
}
