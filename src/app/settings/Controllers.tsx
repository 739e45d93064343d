'use client'
import { useEffect, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { dayAndTime } from '@/ui/live/dayAndTime'
import { say, useLive } from '@/ui/live/store'
import { WhoMayWhat } from './WhoMayWhat'
import { beginnings, controllerName, type ControllerView, controllersSchema } from '@/wire/controllers'

const made = z.object({ password: z.string() })

/** Logins of home controllers and guests: what one may do, made, shown once, renewed, withdrawn; and who may what. */
export function Controllers() {
  const broker = useLive((s) => s.broker)
  const [list, setList] = useState<ControllerView[]>([])
  const [shown, setShown] = useState<{ name: string; password: string } | null>(null)
  const [name, setName] = useState('')
  const [topics, setTopics] = useState('')
  const [isGuest, setGuest] = useState(false)
  const [problem, setProblem] = useState('')
  const [round, setRound] = useState(0)
  const look = () => setRound((n) => n + 1)
  useEffect(() => {
    void ask('/api/controllers', controllersSchema).then((a) => a.kind === 'ok' && setList(a.value.controllers))
  }, [round])
  const put = async (wanted: string, renew: boolean) => {
    const read = controllerName.safeParse(wanted)
    if (!read.success) return setProblem(read.error.issues[0]?.message ?? '')
    const wantsTopics = isGuest && !renew
    const parts = beginnings.safeParse(wantsTopics ? topics.split(/[\s,]+/).filter((t) => t !== '') : [])
    if (!parts.success) return setProblem(parts.error.issues[0]?.message ?? '')
    if (wantsTopics && parts.data.length === 0) return setProblem('A guest needs at least one beginning of topics.')
    const a = await ask('/api/controllers', made, { name: read.data, renew, topics: parts.data })
    if (a.kind !== 'ok') return setProblem(a.error)
    setProblem('')
    setName('')
    setShown({ name: read.data, password: a.value.password })
    look()
  }
  const withdraw = async (gone: string) => {
    const a = await ask('/api/controllers', z.object({}), { name: gone }, 'DELETE')
    say(a.kind === 'ok' ? `${gone} can no longer log in.` : a.error, a.kind === 'ok' ? 'told' : 'refused')
    if (shown?.name === gone) setShown(null)
    look()
  }
  return (
    <section className="setting" aria-label="controllers">
      <h2>Controllers and guests</h2>
      <p className="small soft">
        A login for the home controller. It hears everything this shop publishes but sealed credentials and node files,
        and may send commands to outputs; it may not send files, passwords or searches, and publishes nothing else. A
        guest keeps to topics that begin as you say: it hears all below them, and publishes there unless they are this
        shop’s own.
      </p>
      {list.length > 0 && (
        <table className="table">
          <tbody>
            {list.map((c) => (
              <tr key={c.name} data-controller={c.name}>
                <td>
                  <b>{c.name}</b>
                  {c.role === 'guest' && <span className="small soft"> guest: {c.topics.join(', ')}</span>}
                </td>
                <td className="small">
                  password of{' '}
                  {new Date(c.at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })}
                </td>
                <td className="small">
                  <Listens controller={c} />
                </td>
                <td className="text-end">
                  <Button variant="quiet" aria-label={`renew ${c.name}`} onClick={() => void put(c.name, true)}>
                    New password
                  </Button>{' '}
                  <Button variant="quiet" aria-label={`withdraw ${c.name}`} onClick={() => void withdraw(c.name)}>
                    Withdraw
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {shown && (
        <div className="mb-2" role="status" data-shown="controller">
          <p className="mb-1">
            Enter this in the controller now; it is not shown again. Broker {broker.host}:{broker.port}, name{' '}
            <b className="mono">{shown.name}</b>, password <b className="mono">{shown.password}</b>
          </p>
          <Button variant="quiet" onClick={() => setShown(null)}>
            It is entered
          </Button>
        </div>
      )}
      <Form
        className="d-flex flex-wrap gap-2 align-items-end"
        onSubmit={(e) => {
          e.preventDefault()
          void put(name, false)
        }}
      >
        <div>
          <Form.Label htmlFor="controller-name">name of the new login</Form.Label>
          <Form.Control
            id="controller-name"
            value={name}
            autoComplete="off"
            placeholder="house"
            isInvalid={problem !== ''}
            onChange={(e) => setName(e.target.value.toLowerCase())}
          />
        </div>
        <Form.Select
          aria-label="kind of login"
          className="w-auto"
          value={isGuest ? 'guest' : 'controller'}
          onChange={(e) => setGuest(e.target.value === 'guest')}
        >
          <option value="controller">controller</option>
          <option value="guest">guest</option>
        </Form.Select>
        {isGuest && (
          <div>
            <Form.Label htmlFor="guest-topics">topics begin with</Form.Label>
            <Form.Control
              id="guest-topics"
              value={topics}
              autoComplete="off"
              placeholder="weather, vn/slip-tank"
              onChange={(e) => setTopics(e.target.value)}
            />
          </div>
        )}
        <Button type="submit" disabled={name === ''}>
          Make the login
        </Button>
      </Form>
      {problem && (
        <div className="small" role="alert">
          {problem}
        </div>
      )}
      <WhoMayWhat />
    </section>
  )
}

/** Since when it listens, and what is offered that it has never asked for. */
function Listens({ controller: { connections, since, unasked } }: { controller: ControllerView }) {
  if (connections === 0) return <>not connected</>
  if (since === null || unasked === null) return <>connected</>
  return (
    <>
      listens since {dayAndTime(since)}
      {unasked.length === 0 ? (
        ', to all that is offered'
      ) : (
        <details>
          <summary>has not asked for {unasked.length}</summary>
          <span className="mono">{unasked.join('  ')}</span>
        </details>
      )}
    </>
  )
}
