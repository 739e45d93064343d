'use client'
import { useEffect, useMemo, useState } from 'react'
import { z } from 'zod'
import { compile } from '@/core/nodefile/compile'
import { type Difference, semanticDiff } from '@/core/nodefile/semanticDiff'
import { type NodeFile, nodeFileSchema } from '@/core/nodefile/nodeFile'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { ask } from '@/ui/live/api'
import { useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

export type DifferenceState =
  | { kind: 'waiting' }
  | { kind: 'incomplete'; reasons: string[] }
  /** `meaning` is null while the node runs nothing that is known here. */
  | { kind: 'ready'; runningText: string | null; designText: string; meaning: Difference[] | null }

const revisionSchema = z.object({ file: z.string() })

/** A file with one entry a line: what people can compare. */
export function lined(file: NodeFile): string {
  return JSON.stringify(file, null, 1)
}

/** What the node runs against what the design says. */
export function useDifference({ node, catalog, around }: NodeView): DifferenceState {
  const broker = useLive((s) => s.broker)
  const { running } = node.live
  const revision = running?.revision ?? null
  const [kept, setKept] = useState<{ of: number; file: NodeFile | null } | null>(null)
  useEffect(() => {
    if (revision === null) return
    void ask(`/api/nodes/${node.id}/revisions/${revision}`, revisionSchema).then((answer) => {
      const parsed = answer.kind === 'ok' ? nodeFileSchema.safeParse(JSON.parse(answer.value.file)) : null
      setKept({ of: revision, file: parsed?.success ? parsed.data : null })
    })
  }, [node.id, revision])
  return useMemo(() => {
    if (revision !== null && kept?.of !== revision) return { kind: 'waiting' }
    const result = compile(node.design, around, catalog, { ...broker, root: DEFAULT_ROOT }, revision ?? 1)
    if (!result.ok) return { kind: 'incomplete', reasons: result.reasons }
    const { file } = result.compiled
    return {
      kind: 'ready',
      runningText: kept?.file ? lined(kept.file) : null,
      designText: lined(file),
      meaning: kept?.file ? semanticDiff(kept.file, file) : null,
    }
  }, [node.design, around, catalog, broker, revision, kept])
}
