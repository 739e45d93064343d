/** What an output can do at power-up, before any command. */
export const START_STATES = ['off', 'on', 'last', 'follow', 'opposite'] as const
/** States that are taken from an input of the node. */
export const isFollowing = (state: (typeof START_STATES)[number]): boolean => state === 'follow' || state === 'opposite'
export type StartState = (typeof START_STATES)[number]
/** What ends a far thing that is on, by itself: times in s, and a code for off. */
export interface FarEnds {
  longestOnS: number
  pulseS: number
  says: { off: string | null } | null
}
/** Nothing is known of a far thing at the start; one that has a code for off and may not stay on is told to go off. */
export const saysOffAtStart = ({ longestOnS, pulseS, says }: FarEnds): boolean =>
  typeof says?.off === 'string' && (longestOnS > 0 || pulseS > 0)
export const farStart = (of: FarEnds): string => (saysOffAtStart(of) ? 'says off at start' : 'says nothing at start')
