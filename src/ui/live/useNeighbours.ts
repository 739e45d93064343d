'use client'
import { useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import type { Neighbour } from '../../core/surroundings/airOf'
import { useLive } from './store'

/** Every node of the shop as others know it: the same list until one comes, goes or is called otherwise. */
export function useNeighbours(): readonly Neighbour[] {
  const words = useLive(useShallow((s) => s.order.map((id) => `${id} ${s.nodes[id]?.design.slug ?? ''}`)))
  return useMemo(
    () =>
      words.map((w) => {
        const [id = '', slug = ''] = w.split(' ')
        return { id, slug }
      }),
    [words],
  )
}
