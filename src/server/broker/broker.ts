import type { Listener } from '../../wire/brokerControl'

/** The broker in use, our own or one outside, as the product sees it. */
export interface Broker {
  publish(topic: string, payload: string | Buffer, options: { retain: boolean; qos: 0 | 1 }): Promise<void>
  readonly clients: number
  /** Connections a login has. */
  connectionsOf(login: string): number
  /** Since when a controller or guest is connected and what it has asked to hear; null where it is not, or nobody knows. */
  listenerOf(login: string): Listener | null
  /** Ends them. */
  cutOff(login: string): Promise<void>
  close(): Promise<void>
}
