/**
 * Insulation colours as sold, in the order they are proposed. Green-yellow is left out: it is for protective earth
 * alone.
 */
export const PROPOSED = [
  'white',
  'blue',
  'yellow',
  'brown',
  'violet',
  'green',
  'pink',
  'grey',
  'orange',
  'red',
  'black',
  'turquoise',
] as const

/** Groups that are taken for one another by lamp light, when dusty, or with a colour deficiency. */
export const LOOK_ALIKE: readonly (readonly string[])[] = [
  ['red', 'brown'],
  ['blue', 'violet'],
  ['grey', 'white'],
  ['pink', 'orange'],
  ['green', 'turquoise'],
]

/** Whether two colours are the same or taken for one another. */
export function alike(a: string, b: string): boolean {
  return a === b || LOOK_ALIKE.some((group) => group.includes(a) && group.includes(b))
}
