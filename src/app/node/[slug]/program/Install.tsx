'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { installSteps } from '@/core/bundle/installSteps'
import { type Problem, problemWords } from '@/core/documents/readDocument'
import { compile } from '@/core/nodefile/compile'
import { importNodeFile } from '@/core/nodefile/importNodeFile'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { Replace } from './Replace'
import { GoOn, heldIn } from '@/ui/findings/GoOn'
import type { Held, Past, Replaces } from '@/wire/held'
import { saveFile } from '@/ui/files/saveFile'
import { edit, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** Onto the board: the bundle, the steps for this very board, and the file by itself, out and in. */
export function Install({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    board,
    catalog,
  } = view
  const [passwords, setPasswords] = useState(false)
  const [busy, setBusy] = useState(false)
  const [held, setHeld] = useState<Held | null>(null)
  const [replacing, setReplacing] = useState<Replaces | undefined>()
  const broker = useLive((s) => s.broker)
  const name = `${design.slug}-rN${passwords ? '-with-passwords' : ''}.zip`
  const steps = installSteps(design, board, catalog, { name, withPasswords: passwords })
  const bundle = async (by?: Past, replaces = replacing): Promise<boolean> => {
    setBusy(true)
    setHeld(null)
    setReplacing(replaces)
    try {
      const response = await fetch(`/api/nodes/${id}/bundle`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ passwords: passwords || replaces !== undefined, past: by, replaces }),
      })
      if (!response.ok) {
        const told: unknown = await response.json().catch(() => null)
        const stops = response.status === 409 ? heldIn(told) : null
        if (stops) setHeld(stops)
        else say(String((told as { error?: string } | null)?.error ?? response.status), 'refused')
        return false
      }
      const called = /filename="([^"]+)"/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? name
      saveFile(called, 'application/zip', await response.blob())
      say(`${called} is with the browser’s downloads.`)
      return true
    } catch {
      say('The server cannot be reached; no bundle was made.', 'refused')
      return false
    } finally {
      setBusy(false)
    }
  }
  const file = () => {
    const result = compile(
      design,
      view.around,
      catalog,
      { ...broker, root: DEFAULT_ROOT },
      view.node.live.running?.revision ?? 1,
    )
    if (result.ok)
      saveFile(`${design.slug}-node.json`, 'application/json', `${JSON.stringify(result.compiled.file, null, 2)}\n`)
    else say(`The file cannot be written yet: ${result.reasons.join('; ')}.`, 'refused')
  }
  return (
    <div className="install-split">
      <section aria-label="steps">
        <h2>Onto the {board.name}</h2>
        <ol className="steps">
          {steps.map((s) => (
            <li key={s.title} className={s.caution ? 'is-caution' : undefined}>
              <b>{s.title}.</b> {s.text}
            </li>
          ))}
        </ol>
      </section>
      <section aria-label="files">
        <h2>Bundle</h2>
        {held && <GoOn held={held} doing="Bundle" onGo={(past) => void bundle(past)} onHide={() => setHeld(null)} />}
        <p className="small">
          A zip with the node file, the runtime’s modules it needs, the wiring sheet, these steps and checksums.
        </p>
        <Form.Check
          id="i-passwords"
          label="with passwords"
          checked={passwords}
          onChange={(e) => setPasswords(e.target.checked)}
        />
        {passwords && (
          <p className="small">
            Network password, a new login and the node’s own key are inside in clear, and the name says so. The login of
            an earlier bundle stops working. Delete it once the board is written.
          </p>
        )}
        <Button className="mt-2" disabled={busy} onClick={() => void bundle(undefined, undefined)}>
          {busy ? 'Making it …' : 'Make the bundle'}
        </Button>
        <Replace view={view} busy={busy} onBundle={(replaces) => bundle(undefined, replaces)} />
        <h2 className="mt-4">Node file</h2>
        <p className="small">
          The same file in readable form. An edited one can be taken back: what parts and wiring decide stays as
          designed.
        </p>
        <Button variant="quiet" onClick={file}>
          Save the node file
        </Button>
        <TakeBack view={view} />
      </section>
    </div>
  )
}

function TakeBack({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    catalog,
  } = view
  const broker = useLive((s) => s.broker)
  const [told, setTold] = useState<{ file: string; problems: Problem[]; done: string[]; leftOut: Problem[] } | null>(
    null,
  )
  const take = async (chosen: File) => {
    const result = importNodeFile(await chosen.text(), design, view.around, catalog, { ...broker, root: DEFAULT_ROOT })
    if (!result.ok) return setTold({ file: chosen.name, problems: result.problems, done: [], leftOut: [] })
    const done = result.changes.length === 0 ? [] : result.done
    if (
      done.length > 0 &&
      !edit(id, { kind: 'revert', of: `node file ${chosen.name}`.slice(0, 200), changes: result.changes })
    )
      return
    setTold({ file: chosen.name, problems: [], done, leftOut: result.leftOut })
  }
  return (
    <div className="mt-3">
      <Form.Label htmlFor="i-file">take an edited file back</Form.Label>
      <Form.Control
        id="i-file"
        type="file"
        accept=".json,application/json"
        onChange={(e) => {
          const [chosen] = (e.target as HTMLInputElement).files ?? []
          if (chosen) void take(chosen)
          e.target.value = ''
        }}
      />
      {told && told.problems.length > 0 && (
        <div role="alert" className="small mt-2">
          <b>Nothing was changed.</b>
          {told.problems.slice(0, 8).map((p) => (
            <div key={`${p.line}:${p.column}:${p.path}`}>{problemWords(told.file, p)}</div>
          ))}
        </div>
      )}
      {told && told.problems.length === 0 && (
        <div role="status" className="small mt-2">
          {told.done.length === 0 ? (
            'It says what the design says.'
          ) : (
            <>
              <b>Taken over:</b> {told.done.join('; ')}. Ctrl-Z takes it back.
            </>
          )}
          {told.leftOut.map((p) => (
            <div key={`${p.line}:${p.column}`}>
              Left out, line {p.line}: {p.path} {p.expected.replace(/^nothing to be said here: /, '')}
            </div>
          ))}
        </div>
      )}
    </div>
  )
}
