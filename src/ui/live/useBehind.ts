'use client'
import { useMemo } from 'react'
import { surroundings } from '../../core/surroundings/surroundings'
import { inForce } from './inForce'
import { type ClientNode, useLive } from './store'
import { useNeighbours } from './useNeighbours'

/** Nodes that run something else than their design and the shop would make of it; `isBehind` asks it of one. */
export function useBehind(): { behind: string[]; isBehind: (node: ClientNode) => boolean } {
  const nodes = useLive((s) => s.nodes)
  const shop = useLive((s) => s.shop)
  const catalog = useLive((s) => s.catalog)
  const broker = useLive((s) => s.broker)
  const neighbours = useNeighbours()
  return useMemo(() => {
    const isBehind = ({ design, live }: ClientNode) =>
      live.running !== null && !inForce(design, surroundings(design, shop, neighbours), catalog, broker, live.running)
    return { behind: Object.values(nodes).flatMap((n) => (isBehind(n) ? [n.id] : [])), isBehind }
  }, [nodes, shop, catalog, broker, neighbours])
}
