'use client'
import { useMemo } from 'react'
import { Button } from 'react-bootstrap'
import type { SheetRow } from '@/core/publish/entitySheet'
import { sheetFaults } from '@/core/publish/sheetFaults'
import { edit } from '@/ui/live/store'

/** Names over the whole shop that would be taken for one another, or are too long; `nodeId` keeps to those of one node. */
export function SheetFaults({ rows, nodeId = null }: { rows: readonly SheetRow[]; nodeId?: string | null }) {
  const faults = useMemo(
    () => sheetFaults(rows).filter((f) => nodeId === null || f.rows.some((r) => r.nodeId === nodeId)),
    [rows, nodeId],
  )
  if (faults.length === 0) return null
  return (
    <section aria-label="names">
      <h2 className="mt-3">names · {faults.length}</h2>
      {faults.map((f) => {
        const last = f.rows.at(-1)
        return (
          <div key={f.key} className="mb-3" data-name-fault>
            <p className="small mb-1">{f.words}</p>
            {f.better !== null && last && f.better !== last.name && (
              <Button
                variant="quiet"
                onClick={() =>
                  edit(last.nodeId, {
                    kind: 'rename-signal',
                    signalId: last.signalId,
                    name: f.better ?? last.name,
                    slug: last.signal.slug,
                  })
                }
              >
                Call it “{f.better}”
              </Button>
            )}
          </div>
        )
      })}
    </section>
  )
}
