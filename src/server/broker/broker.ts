/** The broker in use, our own or one outside, as the product sees it. */
export interface Broker {
  publish(topic: string, payload: string | Buffer, options: { retain: boolean; qos: 0 | 1 }): Promise<void>
  readonly clients: number
  /** Connections a login has. */
  connectionsOf(login: string): number
  /** Ends them. */
  cutOff(login: string): Promise<void>
  close(): Promise<void>
}
