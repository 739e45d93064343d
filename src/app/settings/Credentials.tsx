'use client'
import Link from 'next/link'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { networkAdvice } from '@/core/shop/networkAdvice'
import type { CredentialState, NetworkCarriers } from '@/wire/protocol'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'

const STATE: Record<CredentialState, string> = {
  carried: 'gets in with it',
  trying: 'is trying it now',
  pending: 'has not got in with it yet',
  asleep: 'asleep',
  unreachable: 'cannot be reached',
  unknown: 'unknown',
}

/**
 * Passwords of networks, once for all nodes: who gets in with the present one, and the way to change it without locking
 * anybody out.
 */
export function Credentials() {
  const carriers = useLive((s) => s.carriers)
  return (
    <section className="setting" style={{ maxWidth: 980 }} aria-label="passwords of networks">
      <h2>Passwords of networks</h2>
      <p className="small soft">
        Kept encrypted, shown only when asked for. A changed one goes to each node sealed; the node tries it, and uses
        the old one again if it does not get in. Change the access point when every node has it: one that has both falls
        off, tries both and finds its way; one that has only the old one would stay outside.
      </p>
      <MustBeVisited carriers={carriers} />
      {carriers.map((c) => (
        <NetworkPassword key={c.ref} network={c} />
      ))}
    </section>
  )
}

/** After a restore without its key: which nodes run on as they are, and can be given nothing new over the network. */
function MustBeVisited({ carriers }: { carriers: NetworkCarriers[] }) {
  const nodes = carriers.flatMap((c) => c.nodes.filter((n) => n.keyless))
  if (nodes.length === 0) return null
  return (
    <p role="alert" data-visit={nodes.map((n) => n.slug).join(' ')}>
      <b>The keys of {nodes.map((n) => n.name).join(', ')} were sealed with a key that is not here.</b> They run on and
      come in with the passwords they have. To give them new ones, put the old key file or passphrase back and start
      again, or go to each with an install bundle and a cable.
    </p>
  )
}

function NetworkPassword({ network }: { network: NetworkCarriers }) {
  const [password, setPassword] = useState('')
  const [shown, setShown] = useState<string | null>(null)
  const advice = password === '' ? [] : networkAdvice({ ...network, password })
  const never = advice.some((a) => a.severity === 'stop')
  const change = async (e: React.FormEvent) => {
    e.preventDefault()
    const answer = await ask('/api/credentials', z.object({}), { ref: network.ref, password })
    if (answer.kind !== 'ok')
      return say(
        answer.kind === 'away' ? 'The server cannot be reached; nothing was changed.' : answer.error,
        'refused',
      )
    setPassword('')
    setShown(null)
    say(`Kept. It is on its way to the nodes of “${network.name}”.`)
  }
  const show = async () => {
    if (shown !== null) return setShown(null)
    const answer = await ask('/api/credentials/show', z.object({ password: z.string() }), { ref: network.ref })
    if (answer.kind === 'ok') setShown(answer.value.password)
    else say(answer.error, 'refused')
  }
  const left = network.nodes.filter((n) => n.state !== 'carried').length
  const without = network.nodes.filter((n) => !n.has)
  return (
    <div data-network={network.ref}>
      <Form className="fields" onSubmit={(e) => void change(e)}>
        <div>
          <Form.Label htmlFor={`p-${network.ref}`}>
            {network.known
              ? `new password of “${network.name}” (${network.ref})`
              : `password of “${network.name}” (${network.ref})`}
          </Form.Label>
          <Form.Control
            id={`p-${network.ref}`}
            type="password"
            autoComplete="new-password"
            value={password}
            style={{ width: 320 }}
            onChange={(e) => setPassword(e.target.value)}
          />
        </div>
        <Button type="submit" disabled={password === '' || never}>
          {network.known ? 'Change it' : 'Keep it'}
        </Button>
        {network.known && (
          <Button variant="bare" aria-pressed={shown !== null} onClick={() => void show()}>
            {shown === null ? 'show the present one' : 'hide it'}
          </Button>
        )}
        {shown !== null && (
          <code className="mono" data-shown="password">
            {shown}
          </code>
        )}
      </Form>
      {advice.map((a) => (
        <p key={a.words} className="small pt-2" role={a.severity === 'stop' ? 'alert' : undefined}>
          <b>{a.severity}</b> {a.words}
        </p>
      ))}
      {left > 0 && network.known && (
        <p className="small pt-2" data-safe={without.length === 0}>
          {without.length === 0 ? (
            <b>Every node has it: the access point can be changed now.</b>
          ) : (
            <>
              <b>Leave the access point as it is:</b> {without.map((n) => n.name).join(', ')}{' '}
              {without.length === 1 ? 'has' : 'have'} only the old one.
            </>
          )}
        </p>
      )}
      {network.nodes.length > 0 && (
        <table className="table mt-2">
          <thead>
            <tr>
              <th scope="col">node</th>
              <th scope="col">
                {left === 0
                  ? 'all get in with the present password'
                  : `${left} of ${network.nodes.length} still to come`}
              </th>
            </tr>
          </thead>
          <tbody>
            {network.nodes.map((n) => (
              <tr key={n.id} data-carrier={n.slug} data-state={n.state}>
                <td>
                  <Link href={`/node/${n.slug}`} style={{ color: 'inherit' }}>
                    {n.name}
                  </Link>
                </td>
                <td>
                  {STATE[n.state]}
                  {n.reason !== null && <span className="small">: {n.reason}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  )
}
