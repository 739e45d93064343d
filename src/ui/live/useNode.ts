'use client'
import { useParams } from 'next/navigation'
import { useMemo } from 'react'
import type { Catalog } from '../../core/catalog/catalog'
import type { Board } from '../../core/catalog/board'
import { derive, type Derived } from '../../core/derive/derive'
import { type Surroundings, surroundings } from '../../core/surroundings/surroundings'
import { type ClientNode, useLive } from './store'
import { useNeighbours } from './useNeighbours'

export interface NodeView {
  node: ClientNode
  board: Board
  catalog: Catalog
  derived: Derived
  /** What its file takes from the shop. */
  around: Surroundings
}

/** The node of this page with everything that follows from its design, or null while it is not known. */
export function useNode(): NodeView | null {
  const { slug } = useParams<{ slug: string }>()
  const node = useLive((s) => s.order.map((id) => s.nodes[id]).find((n) => n?.design.slug === slug || n?.id === slug))
  const design = node?.design
  const catalog = useLive((s) => s.catalog)
  const acknowledged = node?.live.acknowledged
  const shop = useLive((s) => s.shop)
  const nodes = useNeighbours()
  const around = useMemo(() => (design ? surroundings(design, shop, nodes) : null), [design, shop, nodes])
  const derived = useMemo(
    () => (design ? derive(design, catalog, new Set(acknowledged), around) : null),
    [design, catalog, acknowledged, around],
  )
  const board = design && catalog.boards[design.board.id]
  return useMemo(
    () => (node && board && derived && around ? { node, board, catalog, derived, around } : null),
    [node, board, catalog, derived, around],
  )
}
