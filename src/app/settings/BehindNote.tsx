'use client'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { useBehind } from '@/ui/live/useBehind'
import { Sending } from '../Sending'

/** After a change of the shop: how many nodes carry something else in their files, and the way to send them. */
export function BehindNote() {
  const { behind } = useBehind()
  const [show, setShow] = useState(false)
  if (behind.length === 0 && !show) return null
  return (
    <p className="small" data-note="behind">
      {behind.length === 1 ? 'One node runs' : `${behind.length} nodes run`} something else than this says.{' '}
      <Button variant="bare" onClick={() => setShow(true)}>
        who, and in which order to send them
      </Button>
      <Sending show={show} onHide={() => setShow(false)} />
    </p>
  )
}
