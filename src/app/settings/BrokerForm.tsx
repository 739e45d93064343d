'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { type BrokerSettings, brokerSettingsSchema } from '@/core/shop/brokerSettings'
import { CERTIFICATE_ADVICE } from '@/core/shop/networkAdvice'
import { ask } from '@/ui/live/api'
import { say } from '@/ui/live/store'

interface Draft {
  kind: 'own' | 'outside'
  url: string
  login: string
  password: string
  nodeLogin: string
  nodePassword: string
}

const draftOf = (s: BrokerSettings): Draft => ({
  kind: s.kind,
  url: s.kind === 'outside' ? s.url : 'mqtt://',
  login: s.kind === 'outside' ? s.login : '',
  password: '',
  nodeLogin: s.kind === 'outside' ? s.nodeLogin : '',
  nodePassword: '',
})

/** Where the broker is. Kept apart from the shop document, so that no document from elsewhere can repoint it. */
export function BrokerForm({ kept, onKept }: { kept: BrokerSettings; onKept: (s: BrokerSettings) => void }) {
  const [draft, setDraft] = useState(() => draftOf(kept))
  const [problem, setProblem] = useState<string | null>(null)
  const put = (change: Partial<Draft>) => setDraft((d) => ({ ...d, ...change }))
  const submit = async (e: React.FormEvent) => {
    e.preventDefault()
    const parsed = brokerSettingsSchema.safeParse(
      draft.kind === 'own'
        ? { kind: 'own' }
        : { kind: 'outside', url: draft.url, login: draft.login, nodeLogin: draft.nodeLogin },
    )
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? 'another address')
    setProblem(null)
    const answer = await ask('/api/settings', z.object({}), {
      broker: parsed.data,
      ...(draft.kind === 'outside' && draft.password !== '' ? { outsidePassword: draft.password } : {}),
      ...(draft.kind === 'outside' && draft.nodePassword !== '' ? { nodePassword: draft.nodePassword } : {}),
    })
    if (answer.kind === 'ok') {
      onKept(parsed.data)
      put({ password: '', nodePassword: '' })
      say('Settings kept.')
    } else say(answer.kind === 'away' ? 'The server cannot be reached; nothing was changed.' : answer.error, 'refused')
  }
  return (
    <Form onSubmit={(e) => void submit(e)} noValidate aria-label="broker">
      <section className="setting">
        <h2>Broker</h2>
        <Form.Check
          type="radio"
          id="s-own"
          name="broker"
          label="our own, a program beside this one"
          checked={draft.kind === 'own'}
          onChange={() => put({ kind: 'own' })}
        />
        {draft.kind === 'own' && (
          <p className="form-text">
            It goes on when Vivid Node stops: nodes and controller stay connected, and what nodes send with an
            acknowledgement waits here for the history. <code>bin/broker stop</code> ends it.
          </p>
        )}
        <Form.Check
          type="radio"
          id="s-outside"
          name="broker"
          label="one that runs elsewhere"
          checked={draft.kind === 'outside'}
          onChange={() => put({ kind: 'outside' })}
        />
        {draft.kind === 'outside' && (
          <>
            <div className="fields">
              <div>
                <Form.Label htmlFor="s-url">address</Form.Label>
                <Form.Control
                  id="s-url"
                  value={draft.url}
                  onChange={(e) => put({ url: e.target.value })}
                  autoComplete="off"
                  style={{ width: 300 }}
                />
              </div>
              <Login
                id="s-login"
                label="login"
                value={draft.login}
                password={draft.password}
                kept={kept.kind === 'outside'}
                onLogin={(login) => put({ login })}
                onPassword={(password) => put({ password })}
              />
            </div>
            <div className="fields">
              <Login
                id="s-node-login"
                label="login of all nodes, for their bundles"
                value={draft.nodeLogin}
                password={draft.nodePassword}
                kept={kept.kind === 'outside' && kept.nodeLogin !== ''}
                onLogin={(nodeLogin) => put({ nodeLogin })}
                onPassword={(nodePassword) => put({ nodePassword })}
              />
            </div>
            {problem !== null && (
              <div className="small" role="alert">
                Expected: {problem}.
              </div>
            )}
            {draft.url.startsWith('mqtts:') && (
              <p className="small">
                <b>{CERTIFICATE_ADVICE.severity}</b> {CERTIFICATE_ADVICE.words}
              </p>
            )}
            <p className="small soft">
              That login must be allowed to read and write below vn/. Rules about who may publish what are then that
              broker’s own; ours stand down. The password is stored encrypted and shown nowhere.
            </p>
          </>
        )}
        <div>
          <Button type="submit">Keep this broker</Button>
        </div>
      </section>
    </Form>
  )
}

interface LoginProps {
  id: string
  label: string
  value: string
  password: string
  /** A password is kept already. */
  kept: boolean
  onLogin: (login: string) => void
  onPassword: (password: string) => void
}

/** A login and its password, which is never shown. */
function Login({ id, label, value, password, kept, onLogin, onPassword }: LoginProps) {
  return (
    <>
      <div>
        <Form.Label htmlFor={id}>{label}</Form.Label>
        <Form.Control id={id} value={value} onChange={(e) => onLogin(e.target.value)} autoComplete="off" />
      </div>
      <div>
        <Form.Label htmlFor={`${id}-password`}>its password{kept ? ', empty leaves the one kept' : ''}</Form.Label>
        <Form.Control
          id={`${id}-password`}
          type="password"
          value={password}
          onChange={(e) => onPassword(e.target.value)}
          autoComplete="new-password"
        />
      </div>
    </>
  )
}
