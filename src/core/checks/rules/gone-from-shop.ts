import { byOne } from '../remedies'
import { report, type Rule } from '../context'

/** A place the shop does not have: the node would be announced without one. */
export const placeGone: Rule = {
  id: 'place-gone',
  severity: 'fix',
  when: 'A node is in a place that the shop does not have, or not any more.',
  source: 'The shop document.',
  check: ({ design, around }) =>
    around === null || design.place === null || around.place !== null
      ? []
      : [
          report(design.place, {
            bench: 'program',
            sentence: `The place it is in, “${design.place}”, is not among those of the shop: it is announced without one. Choose another, or add it in the settings.`,
            remedies: [
              byOne('Leave its place open', { kind: 'identify', name: design.name, slug: design.slug, place: null }),
            ],
          }),
        ],
}

/** A network the shop does not have: no password can be put onto the board. */
export const networkGone: Rule = {
  id: 'network-gone',
  severity: 'stop',
  when: 'A node joins a network that the shop does not have, or not any more.',
  source: 'The shop document.',
  check: ({ design, around }) =>
    around === null || around.network !== null
      ? []
      : [
          report(design.network.ref, {
            bench: 'program',
            sentence: `The network it is to join, “${design.network.ref}”, is not among those of the shop: nobody knows its password. Choose one under Program, or add it in the settings.`,
          }),
        ],
}
