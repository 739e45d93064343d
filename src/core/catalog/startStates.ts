/** What an output can do at power-up, before any command. */
export const START_STATES = ['off', 'on', 'last', 'follow', 'opposite'] as const
/** States that are taken from an input of the node. */
export const isFollowing = (state: (typeof START_STATES)[number]): boolean => state === 'follow' || state === 'opposite'
export type StartState = (typeof START_STATES)[number]
/** Nothing is known of a far thing at the start; one that may not stay on is told to go off. */
export const farStart = (longestOnS: number): string => (longestOnS > 0 ? 'says off at start' : 'says nothing at start')
