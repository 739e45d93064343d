import { useState } from 'react'
import type { BringUpStep } from '@/core/bringup/step'
import { NOT_SEEN, type Seen, watched } from '@/core/bringup/watched'
import type { NodeLive } from '@/wire/protocol'

/** What the product sees by itself from the opening of a step on: for a component that lives as long as the step. */
export function useWatch({ watch }: BringUpStep, { live }: { live: NodeLive }): Seen {
  const now = watch && 'signalId' in watch ? live.values[watch.signalId] : undefined
  const [before] = useState(() => ({ at: new Date().toISOString(), value: now?.value, known: now !== undefined }))
  return watch ? watched(watch, live, before) : NOT_SEEN
}
