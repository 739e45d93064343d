'use client'
import { inForce } from '@/ui/live/inForce'
import { useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** True when the node runs what the design says. */
export function useInForce({ node, catalog, around }: NodeView): boolean {
  const broker = useLive((s) => s.broker)
  return inForce(node.design, around, catalog, broker, node.live.running)
}
