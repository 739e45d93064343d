'use client'
import { useMemo } from 'react'
import { entitySheet, type SheetNode, type SheetRow } from '@/core/publish/entitySheet'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { surroundings } from '@/core/surroundings/surroundings'
import { useLive } from '@/ui/live/store'

/** Every node of the shop and every row of its entity sheet. */
export function useSheet(): { nodes: SheetNode[]; rows: SheetRow[] } {
  const { nodes: all, order, shop, catalog } = useLive()
  return useMemo(() => {
    const nodes = order.flatMap((id) => {
      const design = all[id]?.design
      return design ? [{ id, design, place: surroundings(design, shop).place }] : []
    })
    return { nodes, rows: entitySheet(nodes, catalog, DEFAULT_ROOT) }
  }, [all, order, shop, catalog])
}
