'use client'
import { inForce } from '@/ui/live/inForce'
import { useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** True when the node runs what the design says. */
export function useInForce({ node, catalog }: NodeView): boolean {
  const broker = useLive((s) => s.shop.broker)
  return inForce(node.design, catalog, broker, node.live.running)
}
