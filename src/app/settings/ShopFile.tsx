'use client'
import { useEffect, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { type Change, changesBetween } from '@/core/documents/changes'
import type { Problem } from '@/core/documents/readDocument'
import { readShop } from '@/core/shop/readShop'
import { ask } from '@/ui/live/api'
import { editShop, redo, undo, useLive } from '@/ui/live/store'

const historySchema = z.object({
  edits: z.array(z.object({ seq: z.number(), words: z.string(), author: z.string(), at: z.string() })),
})

interface Chosen {
  file: string
  changes: Change[]
}

/** The shop document as a file, out and in, and what was done to it. What comes in is shown before it is taken. */
export function ShopFile() {
  const shop = useLive((s) => s.shop)
  const edits = useLive((s) => s.shopEdits)
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [problems, setProblems] = useState<Problem[]>([])
  const [told, setTold] = useState<z.infer<typeof historySchema>['edits']>([])
  useEffect(() => {
    void ask('/api/shop?history', historySchema).then((a) => a.kind === 'ok' && setTold(a.value.edits))
  }, [edits.seq])
  const choose = async (file: File | undefined) => {
    if (!file) return
    const read = readShop(await file.text())
    setProblems(read.ok ? [] : read.problems)
    setChosen(read.ok ? { file: file.name, changes: changesBetween(shop, { ...read.value, id: shop.id }) } : null)
  }
  const take = () => {
    if (chosen && editShop({ kind: 'revert', of: `bring in ${chosen.file}`.slice(0, 200), changes: chosen.changes }))
      setChosen(null)
  }
  return (
    <section className="setting" aria-label="shop document">
      <h2>The shop as a file</h2>
      <p className="small soft">
        Name, currency, places and networks, without any password and without the broker. What a file would change is
        shown before it is taken.
      </p>
      <div className="fields">
        <a className="btn btn-quiet" href="/api/shop" download="shop.json">
          Save shop.json
        </a>
        <div>
          <Form.Label htmlFor="s-shop-file">bring one in</Form.Label>
          <Form.Control
            id="s-shop-file"
            type="file"
            accept=".json,application/json"
            onChange={(e) => {
              const input = e.target
              if (input instanceof HTMLInputElement) void choose(input.files?.[0])
            }}
          />
        </div>
        <Button variant="quiet" disabled={edits.undo.length === 0} onClick={() => undo(null)}>
          Take back{edits.undo.length > 0 ? `: ${edits.undo.at(-1)?.words}` : ''}
        </Button>
        <Button variant="quiet" disabled={edits.redo.length === 0} onClick={() => redo(null)}>
          Do again
        </Button>
      </div>
      {problems.length > 0 && (
        <ul className="small" role="alert">
          {problems.slice(0, 8).map((p) => (
            <li key={`${p.line} ${p.column} ${p.path}`}>
              line {p.line}, column {p.column}
              {p.path && `, ${p.path}`}: found {p.found}, expected {p.expected}
            </li>
          ))}
        </ul>
      )}
      {chosen && (
        <div role="status">
          {chosen.changes.length === 0 ? (
            <p className="small">“{chosen.file}” says what the shop says.</p>
          ) : (
            <>
              <p className="small">“{chosen.file}” would change:</p>
              <ul className="small">
                {chosen.changes.map((c) => (
                  <li key={c.path.join(' ')}>{changeWords(c)}</li>
                ))}
              </ul>
              <Button onClick={take}>Take these changes</Button>{' '}
              <Button variant="quiet" onClick={() => setChosen(null)}>
                Leave the shop as it is
              </Button>
            </>
          )}
        </div>
      )}
      {told.length > 0 && (
        <details>
          <summary className="small">what was done to it, newest first</summary>
          <ol className="small" reversed>
            {told.map((e) => (
              <li key={e.seq}>
                {e.words}
                <span className="soft"> {e.author || '–'}</span>
              </li>
            ))}
          </ol>
        </details>
      )}
    </section>
  )
}

const named = z.object({ name: z.string() })

function changeWords({ path, before, after }: Change): string {
  const word = (value: unknown): string => {
    const thing = named.safeParse(value)
    return thing.success ? thing.data.name : JSON.stringify(value)
  }
  if (before === undefined) return `${path.join(' › ')}: add ${word(after)}`
  if (after === undefined) return `${path.join(' › ')}: remove ${word(before)}`
  return `${path.join(' › ')}: ${word(before)} → ${word(after)}`
}
