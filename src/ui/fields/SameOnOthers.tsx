'use client'
import { useMemo } from 'react'
import { Button } from 'react-bootstrap'
import { sameOnOthers } from '@/core/edits/sameOnOthers'
import { editAll, say } from '../live/store'
import type { NodeView } from '../live/useNode'

/** Gives every signal of the same kind what this one has, in one step that one Ctrl-Z takes back. */
export function SameOnOthers({ view, signalId }: { view: NodeView; signalId: string }) {
  const {
    node: { id, design },
    catalog,
  } = view
  const edits = useMemo(() => sameOnOthers(design, catalog, signalId), [design, catalog, signalId])
  const n = new Set(edits.flatMap((e) => ('signalId' in e ? [e.signalId] : []))).size
  const signal = design.signals[signalId]
  if (n === 0 || !signal) return null
  const give = () => {
    if (editAll(id, edits)) say(`${n} more are as ${signal.tag} ${signal.name}. Ctrl-Z takes it back.`)
  }
  return (
    <Button variant="quiet" size="sm" data-same={signal.slug} onClick={give}>
      The same on {n} {n === 1 ? 'other' : 'others'}
    </Button>
  )
}
