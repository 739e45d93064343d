'use client'
import { Button } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'

/** Old readings that are not removed by themselves, because they are suspiciously many. */
export function HeldBack() {
  const held = useLive((s) => s.counts.held)
  if (!held) return null
  const clear = async () => {
    const a = await ask('/api/retention', z.object({ removed: z.number() }), { confirmed: true })
    say(a.kind === 'ok' ? `${a.value.removed} old readings are gone.` : a.error)
  }
  return (
    <section className="setting" data-held>
      <h2>Old readings wait for your word</h2>
      <p>
        {held.rows.toLocaleString('en-GB')} readings are from before {new Date(held.before).toLocaleString('en-GB')} and
        would go now; a usual day has {held.usualADay.toLocaleString('en-GB')}. This machine says it is{' '}
        {new Date().toLocaleString('en-GB')}. If that is right (it was off for a while, say), let them go; if not, set
        its clock first: then nothing is lost.
      </p>
      <div>
        <Button variant="primary" onClick={() => void clear()}>
          The clock is right: let them go
        </Button>
      </div>
    </section>
  )
}
