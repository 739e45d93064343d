'use client'
import Papa from 'papaparse'
import { useState } from 'react'
import type { z } from 'zod'
import { Button, Form } from 'react-bootstrap'
import { accessText } from '@/core/publish/accessText'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { saveFile } from '@/ui/files/saveFile'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import { accessListSchema, type AccessRow, mayAlsoSchema } from '@/wire/controllers'

/** The rights our own broker keeps to, as filters a broker elsewhere can be given. */
export function WhoMayWhat() {
  const outside = useLive((s) => s.broker.kind === 'outside')
  const [rows, setRows] = useState<AccessRow[] | null>(null)
  const look = async () => {
    const a = await ask('/api/access', accessListSchema)
    if (a.kind === 'ok') setRows(a.value.access)
    else say(a.error, 'refused')
  }
  const save = () => {
    const flat = (rows ?? []).flatMap((r) => [
      ...r.publish.map((filter) => ({ login: r.login, who: r.who, may: 'publish', filter })),
      ...r.hear.map((filter) => ({ login: r.login, who: r.who, may: 'hear', filter })),
      ...r.not.map((filter) => ({ login: r.login, who: r.who, may: 'never publish', filter })),
    ])
    saveFile('who-may-what.csv', 'text/csv', Papa.unparse(flat))
  }
  if (rows === null)
    return (
      <p className="mt-3 mb-0">
        <Button variant="quiet" onClick={() => void look()}>
          Who may publish and hear what
        </Button>{' '}
        <span className="small soft">as filters, for a broker that runs elsewhere</span>
      </p>
    )
  return (
    <div className="mt-3" data-access="list">
      <p className="d-flex gap-2">
        <Button variant="quiet" onClick={save}>
          Save as CSV
        </Button>
        <Button
          variant="quiet"
          onClick={() => saveFile('who-may-what.txt', 'text/plain', accessText(DEFAULT_ROOT, rows))}
        >
          Save as text for its administrator
        </Button>
        <Button variant="quiet" onClick={() => setRows(null)}>
          Put away
        </Button>
      </p>
      {rows.map((r) => (
        <details key={`${r.login} ${r.who}`}>
          <summary>
            <b className="mono">{r.login}</b> {r.who}{' '}
            <span className="small soft">
              publishes on {r.publish.length}, hears {r.hear.length}
            </span>
          </summary>
          <Filters name="publishes" filters={r.publish} />
          <Filters name="hears" filters={r.hear} />
          <Filters name="never publishes" filters={r.not} />
        </details>
      ))}
      {outside && <TryLogin rows={rows} />}
    </div>
  )
}

function Filters({ name, filters }: { name: string; filters: readonly string[] }) {
  if (filters.length === 0) return null
  return (
    <p className="small mb-1">
      {name} <span className="mono">{filters.join('  ')}</span>
    </p>
  )
}

/** What a login at the outside broker may beyond its rights, tried live on topics nobody has. */
function TryLogin({ rows }: { rows: readonly AccessRow[] }) {
  const [login, setLogin] = useState('')
  const [password, setPassword] = useState('')
  const [as, setAs] = useState(rows[0]?.login ?? '')
  const [found, setFound] = useState<z.infer<typeof mayAlsoSchema> | null>(null)
  const [busy, setBusy] = useState(false)
  const tryIt = async () => {
    setBusy(true)
    setFound(null)
    const a = await ask('/api/access/check', mayAlsoSchema, { login, password, as })
    setBusy(false)
    if (a.kind === 'ok') setFound(a.value)
    else say(a.error, 'refused')
  }
  return (
    <div className="mt-3" data-try-login>
      <p className="small mb-1">
        Does the broker keep to it? A login is tried there on topics that nobody has; its password is not kept.
      </p>
      <div className="d-flex gap-2 flex-wrap align-items-end">
        <div>
          <Form.Label htmlFor="try-login">login</Form.Label>
          <Form.Control id="try-login" value={login} autoComplete="off" onChange={(e) => setLogin(e.target.value)} />
        </div>
        <div>
          <Form.Label htmlFor="try-password">password</Form.Label>
          <Form.Control
            id="try-password"
            type="password"
            value={password}
            autoComplete="off"
            onChange={(e) => setPassword(e.target.value)}
          />
        </div>
        <div>
          <Form.Label htmlFor="try-as">with the rights of</Form.Label>
          <Form.Select id="try-as" value={as} onChange={(e) => setAs(e.target.value)}>
            {rows.map((r) => (
              <option key={r.login} value={r.login}>
                {r.login}, {r.who}
              </option>
            ))}
          </Form.Select>
        </div>
        <Button variant="quiet" disabled={busy || login === ''} onClick={() => void tryIt()}>
          {busy ? 'Trying …' : 'Try it'}
        </Button>
      </div>
      {found && (
        <ul className="mt-2" data-may-also={found.also.length}>
          {found.came !== null && <li>It does not come in: {found.came}.</li>}
          {found.anybody && <li>Anybody comes in without a login.</li>}
          {found.also.map((t) => (
            <li key={t.does + t.topic}>This login may also {t.words}.</li>
          ))}
          {found.lacks.map((f) => (
            <li key={f}>
              It may not hear <span className="mono">{f}</span>, which it needs.
            </li>
          ))}
          {found.came === null && found.also.length + found.lacks.length === 0 && !found.anybody && (
            <li>It may what it needs, and nothing more that was tried.</li>
          )}
        </ul>
      )}
    </div>
  )
}
