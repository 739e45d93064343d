/** What an output can do at power-up, before any command. */
export const START_STATES = ['off', 'on', 'last', 'follow'] as const
export type StartState = (typeof START_STATES)[number]
