'use client'
import Papa from 'papaparse'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { saveFile } from '@/ui/files/saveFile'
import { ask } from '@/ui/live/api'
import { say } from '@/ui/live/store'
import { accessListSchema, type AccessRow } from '@/wire/controllers'

/** The rights our own broker keeps to, as filters a broker elsewhere can be given. */
export function WhoMayWhat() {
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
