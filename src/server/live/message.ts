/** A message as the broker passed it on. */
export interface Message {
  topic: string
  payload: Buffer
  retain: boolean
  qos: 0 | 1 | 2
  /** Login of who published it; null for what is our own or was known before. */
  from: string | null
  /** When it came to the broker, ms; now where that is not said. */
  at?: number
  /** Its number among those the broker keeps for us, which says whether it has been stored before. */
  n?: number
}
