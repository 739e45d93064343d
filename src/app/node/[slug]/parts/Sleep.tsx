'use client'
import { Button } from 'react-bootstrap'
import { EditField } from '@/ui/fields/EditField'
import { edit } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { numberIn } from '@/ui/fields/numberIn'

const everySchema = numberIn(5, 604_800, 's')

/** Does the node sleep between its readings: pins that wake, and a pin that is tied, follow from it. */
export function Sleep({ view }: { view: NodeView }) {
  const { id, design } = view.node
  return (
    <div className="fact">
      sleeps
      <strong>
        {design.sleep === null ? (
          <>
            never<Button onClick={() => edit(id, { kind: 'sleep', everyS: 600 })}>Let it sleep</Button>
          </>
        ) : (
          <span className="d-flex gap-2 align-items-center">
            <EditField
              id="sleep"
              label="wakes every"
              hideLabel
              unit="s"
              width={110}
              value={design.sleep.everyS}
              schema={everySchema}
              onSave={(everyS) => edit(id, { kind: 'sleep', everyS })}
            />
            <Button className="m-0" onClick={() => edit(id, { kind: 'sleep', everyS: null })}>
              Never
            </Button>
          </span>
        )}
      </strong>
    </div>
  )
}
