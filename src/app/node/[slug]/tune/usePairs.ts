'use client'
import { useEffect, useState } from 'react'
import { z } from 'zod'

const pairsSchema = z.array(
  z.object({
    raw: z.number(),
    reference: z.number(),
    u: z.number().optional(),
    scatter: z.number().optional(),
    aside: z.string().optional(),
  }),
)
/** A pair as it was taken; `aside` is why it does not count. */
export type TakenPair = z.infer<typeof pairsSchema>[number]

/** Pairs not yet used survive a closed tab. */
export function usePairs(key: string): [TakenPair[], (pairs: TakenPair[]) => void] {
  const [pairs, setPairs] = useState<TakenPair[]>([])
  useEffect(() => {
    const restore = setTimeout(() => {
      try {
        const kept = pairsSchema.safeParse(JSON.parse(localStorage.getItem(`vivid-pairs-${key}`) ?? '[]'))
        if (kept.success && kept.data.length > 0) setPairs(kept.data)
      } catch {
        /* unreadable: start with none */
      }
    }, 0)
    return () => clearTimeout(restore)
  }, [key])
  return [
    pairs,
    (next) => {
      setPairs(next)
      localStorage.setItem(`vivid-pairs-${key}`, JSON.stringify(next))
    },
  ]
}
