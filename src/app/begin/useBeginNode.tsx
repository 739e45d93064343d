'use client'
import { useRouter } from 'next/navigation'
import { useState } from 'react'
import { z } from 'zod'
import type { EditBody } from '@/core/edits/edit'
import { nameSchema } from '@/core/model/design'
import { placeNameSchema } from '@/core/shop/shop'
import { ask } from '@/ui/live/api'
import { author } from '@/ui/live/store'

const newNodeSchema = z.object({
  name: nameSchema,
  place: z.union([z.literal(''), placeNameSchema]),
  board: z.string().min(1),
})

/** Begins a node and goes there; what is wrong with it is said at its field. */
export function useBeginNode() {
  const router = useRouter()
  const [problem, setProblem] = useState<{ field: string; text: string } | null>(null)
  /** True when it was begun. `edits` are applied to it in order, all or none. */
  const begin = async (given: unknown, edits: readonly EditBody[] = []): Promise<boolean> => {
    const parsed = newNodeSchema.safeParse(given)
    if (!parsed.success) {
      const [issue] = parsed.error.issues
      setProblem({ field: String(issue?.path[0]), text: `Expected ${issue?.message}.` })
      return false
    }
    const answer = await ask('/api/nodes', z.object({ slug: z.string() }), { ...parsed.data, edits, author: author() })
    if (answer.kind === 'ok') {
      setProblem(null)
      router.push(`/node/${answer.value.slug}`)
      return true
    }
    const away = 'The server cannot be reached; nothing was begun.'
    setProblem({ field: 'name', text: answer.kind === 'away' ? away : answer.error })
    return false
  }
  const said = (field: string) =>
    problem?.field === field ? (
      <div className="small" role="alert">
        {problem.text}
      </div>
    ) : null
  return { begin, said, wrong: problem?.field ?? null }
}
