'use client'
import { useRef, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'

const restored = z.object({ holds: z.string(), before: z.string() })
const refused = z.object({ error: z.string() })

/** Everything in one file, taken while the product runs; and such a file put back in place. */
export function Backup() {
  const field = useRef<HTMLInputElement>(null)
  const [file, setFile] = useState<File | null>(null)
  const [told, setTold] = useState('')
  const [busy, setBusy] = useState(false)
  const restore = async () => {
    if (!file) return
    setBusy(true)
    setTold('Reading it …')
    try {
      const response = await fetch('/api/restore', {
        method: 'POST',
        headers: { 'content-type': 'application/gzip' },
        body: file,
      })
      const body: unknown = await response.json()
      if (response.ok) {
        const { holds, before } = restored.parse(body)
        setTold(`Restored: ${holds}. What was there before is kept in ${before}.`)
      } else setTold(refused.parse(body).error)
    } catch {
      setTold('The server cannot be reached. Nothing is known of the restore; look again when it is back.')
    }
    setBusy(false)
    setFile(null)
    if (field.current) field.current.value = ''
  }
  return (
    <section className="setting">
      <h2>Everything in one file</h2>
      <p className="small soft">
        Designs, history, readings and logbook. Passwords of networks and brokers are in it only sealed, and the key is
        not.
      </p>
      <div>
        <a className="btn btn-primary" href="/api/backup" download>
          Take a backup
        </a>
      </div>
      <div className="fields">
        <div>
          <Form.Label htmlFor="s-file">a backup to put back</Form.Label>
          <Form.Control
            id="s-file"
            ref={field}
            type="file"
            accept=".gz"
            onChange={(e) => setFile((e.target as HTMLInputElement).files?.[0] ?? null)}
          />
        </div>
        <Button disabled={!file || busy} onClick={() => void restore()}>
          Put it in place of what is here
        </Button>
      </div>
      {told && (
        <p role="status" data-restore>
          {told}
        </p>
      )}
    </section>
  )
}
