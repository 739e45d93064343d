import { z } from 'zod'

/** Something a sender says, as what a rule waits for: `air:SENDER/SIGNAL`, both by their ids in the shop. */
export const airSourceSchema = z.string().regex(/^air:[a-z0-9]{2,24}\/[a-z0-9]{2,24}$/, 'air:SENDER/SIGNAL')

export const airSource = (senderId: string, signalId: string): string => `air:${senderId}/${signalId}`

/** Ids of sender and signal; null for a signal of the node itself. */
export function airSourceOf(from: string): { senderId: string; signalId: string } | null {
  const [, senderId, signalId] = /^air:([a-z0-9]+)\/([a-z0-9]+)$/.exec(from) ?? []
  return senderId !== undefined && signalId !== undefined ? { senderId, signalId } : null
}
