'use client'
import { useEffect, useState } from 'react'
import { Button, Table } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say } from '@/ui/live/store'

const copySchema = z.object({
  name: z.string(),
  kind: z.enum(['database', 'leftover']),
  bytes: z.number(),
  at: z.string(),
})
const answerSchema = z.object({ copies: z.array(copySchema) })
type Copy = z.infer<typeof copySchema>

const KIND: Record<Copy['kind'], string> = {
  database: 'a whole earlier database',
  leftover: 'left over from a backup or restore that was cut off; of no use',
}

/** What lies beside the database in use: kept at each restore, until somebody lets it go. */
export function Copies() {
  const [copies, setCopies] = useState<Copy[]>([])
  const [asks, setAsks] = useState<string | null>(null)
  const [round, setRound] = useState(0)
  useEffect(() => {
    let gone = false
    void ask('/api/copies', answerSchema).then((a) => {
      if (!gone && a.kind === 'ok') setCopies(a.value.copies)
    })
    return () => {
      gone = true
    }
  }, [round])
  const clear = async (name: string) => {
    const a = await ask('/api/copies', z.object({}), { name }, 'DELETE')
    say(a.kind === 'ok' ? `${name} is gone.` : a.error)
    setAsks(null)
    setRound((n) => n + 1)
  }
  if (copies.length === 0) return null
  return (
    <section className="setting" data-copies>
      <h2>Kept beside it</h2>
      <p className="small soft">
        Stop the product and <span className="mono">bin/vivid data FOLDER --use NAME</span> puts one of these in place
        of what is there now.
      </p>
      <Table size="sm">
        <thead>
          <tr>
            <th>name</th>
            <th>what it is</th>
            <th>of</th>
            <th className="num">MB</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          {copies.map((c) => (
            <tr key={c.name} className="align-middle">
              <td className="mono">{c.name}</td>
              <td>{KIND[c.kind]}</td>
              <td>{new Date(c.at).toLocaleString('en-GB')}</td>
              <td className="num">{(c.bytes / 1e6).toFixed(1)}</td>
              <td>
                {asks === c.name ? (
                  <>
                    <Button size="sm" variant="primary" onClick={() => void clear(c.name)}>
                      Clear it for good
                    </Button>{' '}
                    <Button size="sm" variant="quiet" onClick={() => setAsks(null)}>
                      Keep it
                    </Button>
                  </>
                ) : (
                  <Button size="sm" variant="quiet" onClick={() => setAsks(c.name)}>
                    Clear
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  )
}
