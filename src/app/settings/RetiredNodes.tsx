'use client'
import { useEffect, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { author, say } from '@/ui/live/store'
import { type Retired, retiredListSchema } from '@/wire/retired'

/** Nodes that were taken out of the shop: brought back, or deleted for good with their name typed. */
export function RetiredNodes() {
  const [list, setList] = useState<Retired[]>([])
  const [round, setRound] = useState(0)
  const look = () => setRound((n) => n + 1)
  useEffect(() => {
    void ask('/api/retired', retiredListSchema).then((a) => a.kind === 'ok' && setList(a.value.retired))
  }, [round])
  if (list.length === 0) return null
  const bringBack = async (node: Retired) => {
    const a = await ask('/api/retired', z.object({}), { id: node.id, author: author() })
    say(
      a.kind === 'ok' ? `${node.name} is back. Its board needs a new bundle: the login is gone.` : a.error,
      a.kind === 'ok' ? 'told' : 'refused',
    )
    look()
  }
  return (
    <section className="setting" aria-label="retired nodes">
      <h2>Retired nodes</h2>
      <p className="small soft">
        Out of the shop, the broker and the controller; what they measured and what was done to them is kept.
      </p>
      <table className="table">
        <tbody>
          {list.map((node) => (
            <tr key={node.id} data-retired={node.slug}>
              <td>
                <b>{node.name}</b>
                <br />
                <span className="small soft">since {new Date(node.at).toLocaleDateString('en-GB')}</span>
              </td>
              <td className="text-end">
                <Button variant="quiet" onClick={() => void bringBack(node)}>
                  Bring back
                </Button>
              </td>
              <td>
                <Delete node={node} onDone={look} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

function Delete({ node, onDone }: { node: Retired; onDone: () => void }) {
  const [name, setName] = useState('')
  const remove = async () => {
    const a = await ask('/api/retired', z.object({}), { id: node.id, name }, 'DELETE')
    say(a.kind === 'ok' ? `${node.name} is deleted.` : a.error, a.kind === 'ok' ? 'told' : 'refused')
    onDone()
  }
  return (
    <Form
      className="d-flex gap-2 align-items-center"
      onSubmit={(e) => {
        e.preventDefault()
        void remove()
      }}
    >
      <Form.Control
        aria-label={`name of ${node.name}, to delete it`}
        placeholder="its name"
        value={name}
        autoComplete="off"
        onChange={(e) => setName(e.target.value)}
      />
      <Button type="submit" variant="quiet" className="text-nowrap" disabled={name.trim() !== node.name}>
        Delete for good
      </Button>
    </Form>
  )
}
