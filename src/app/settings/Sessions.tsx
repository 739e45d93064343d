'use client'
import { useEffect, useState } from 'react'
import { Button } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say } from '@/ui/live/store'

/** Where the shop asks for a password: leaving it on this browser, or on all of them at once. */
export function Sessions() {
  const [locked, setLocked] = useState(false)
  useEffect(() => {
    void ask('/api/session', z.object({ locked: z.boolean() })).then((a) =>
      setLocked(a.kind === 'ok' && a.value.locked),
    )
  }, [])
  if (!locked) return null
  const leave = async (everywhere: boolean) => {
    const a = await ask('/api/session', z.object({}), { everywhere }, 'DELETE')
    if (a.kind === 'ok') location.reload()
    else say(a.kind === 'away' ? 'The server cannot be reached; you are still logged in.' : a.error)
  }
  return (
    <section className="setting" data-sessions>
      <h2>Logged in</h2>
      <p className="small soft">
        A browser that has given the password stays in for 30 days. After a lost device, or where somebody has learnt
        the password: set another one (VIVID_SHOP_PASSWORD), start again, and log out everywhere.
      </p>
      <div>
        <Button variant="quiet" onClick={() => void leave(false)}>
          Log out here
        </Button>{' '}
        <Button variant="quiet" onClick={() => void leave(true)}>
          Log out everywhere
        </Button>
      </div>
    </section>
  )
}
