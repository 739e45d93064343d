import { create } from 'zustand'
import type { StartReading } from '@/core/startup/readStartup'

/** What each node last said on its cable in this tab, in short, by node id. */
export const useLastHeard = create<Record<string, StartReading['head']>>(() => ({}))

export function heardOnCable(node: string | null, { head }: StartReading): void {
  if (node !== null) useLastHeard.setState({ [node]: head })
}
