/** What an output can do at power-up, before any command. */
export const START_STATES = ['off', 'on', 'last', 'follow', 'opposite'] as const
/** States that are taken from an input of the node. */
export const isFollowing = (state: (typeof START_STATES)[number]): boolean => state === 'follow' || state === 'opposite'
export type StartState = (typeof START_STATES)[number]
