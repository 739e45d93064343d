'use client'
import { useMemo } from 'react'
import { compile } from '@/core/nodefile/compile'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** True when compiling the design under the running revision's number gives the very file the node runs. */
export function useInForce({ node, catalog }: NodeView): boolean {
  const broker = useLive((s) => s.shop.broker)
  const { design } = node
  const { running } = node.live
  return useMemo(() => {
    if (!running) return false
    const result = compile(design, catalog, { ...broker, root: DEFAULT_ROOT }, running.revision)
    return result.ok && result.compiled.hash === running.hash
  }, [design, catalog, broker, running])
}
