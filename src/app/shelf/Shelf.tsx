'use client'
import { useMemo, useRef, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { type Board, pinsOf } from '@/core/catalog/board'
import { isBuiltIn } from '@/core/catalog/catalog'
import { GROUPS, type PartKind } from '@/core/catalog/part'
import { searchParts } from '@/core/catalog/searchParts'
import type { Problem } from '@/core/documents/readDocument'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { Fact } from '@/ui/shell/Fact'
import { BoardFacts, PartFacts } from './Facts'

const MOST_COMPARED = 3

/** Boards and part kinds with their facts, two or three side by side; files in and out. */
export function Shelf() {
  const shop = useLive((s) => s.shop.name)
  const catalog = useLive((s) => s.catalog)
  const [wish, setWish] = useState('')
  const [picked, setPicked] = useState<string[]>(['board-32-30'])
  const boards = Object.values(catalog.boards)
  const parts = useMemo(() => searchParts(catalog, wish), [catalog, wish])
  const groups = GROUPS.flatMap((g) => {
    const of = parts.filter((p) => p.group === g)
    return of.length > 0 ? [{ name: g, of }] : []
  })
  const shown = picked.map((id) => catalog.boards[id] ?? catalog.parts[id]).filter((i) => i !== undefined)
  const pick = (id: string) =>
    setPicked((p) => (p.includes(id) ? p.filter((x) => x !== id) : [...p, id].slice(-MOST_COMPARED)))
  return (
    <Shell crumbs={[{ name: shop, href: '/' }, { name: 'Shelf' }]} here="Shelf" back="/">
      <div className="title">
        <h1>Shelf</h1>
        <Fact name="boards" value={String(boards.length)} />
        <Fact name="part kinds" value={String(Object.keys(catalog.parts).length)} />
        <div className="fact">
          <label htmlFor="s-wish">what it knows or does</label>
          <Form.Control
            id="s-wish"
            value={wish}
            onChange={(e) => setWish(e.target.value)}
            style={{ width: 240 }}
            autoComplete="off"
            placeholder="door, humidity, dim …"
          />
        </div>
        <BringIn onIn={(id) => setPicked([id])} />
      </div>
      <div className="place" style={{ gridTemplateColumns: '330px minmax(0, 1fr)' }}>
        <div
          className="work"
          style={{ borderRight: '1px solid var(--hair)' }}
          aria-label="on the shelf"
          role="region"
          tabIndex={0}
        >
          {wish.trim() === '' && <ItemList name="boards" items={boards} picked={picked} onPick={pick} />}
          {groups.map((g) => (
            <ItemList key={g.name} name={g.name} items={g.of} picked={picked} onPick={pick} />
          ))}
          {wish.trim() !== '' && groups.length === 0 && <p>Nothing answers to “{wish}”.</p>}
        </div>
        <div className="work" role="region" aria-label="facts" tabIndex={0}>
          {shown.length === 0 && (
            <div className="empty">
              <h2>Pick up to three</h2>
              <p>Boards and parts are laid side by side here.</p>
            </div>
          )}
          <div
            className="gap-4"
            style={{ display: 'grid', gridTemplateColumns: `repeat(${Math.max(1, shown.length)}, minmax(0, 1fr))` }}
          >
            {shown.map((item) => (
              <section key={item.id} data-facts={item.id} aria-label={item.name}>
                {'positions' in item ? <BoardFacts board={item} /> : <PartFacts kind={item} />}
                <p className="py-2 px-0">
                  <a href={`/api/shelf?item=${item.id}`} download>
                    Its file
                  </a>
                  {!isBuiltIn('positions' in item ? 'boards' : 'parts', item.id) && (
                    <span className="soft small">&ensp;brought in, version {item.version}</span>
                  )}
                </p>
              </section>
            ))}
          </div>
        </div>
      </div>
    </Shell>
  )
}

function ItemList({
  name,
  items,
  picked,
  onPick,
}: {
  name: string
  items: (Board | PartKind)[]
  picked: string[]
  onPick: (id: string) => void
}) {
  return (
    <section className="pb-3">
      <h2
        className="pt-2 pe-0 pb-1 ps-0 m-0"
        style={{ fontSize: '.9rem', fontWeight: 500, color: 'var(--soft)', borderBottom: '1px solid var(--ink)' }}
      >
        {name}
      </h2>
      {items.map((item) => (
        <button
          key={item.id}
          type="button"
          className="shelf-item"
          aria-pressed={picked.includes(item.id)}
          onClick={() => onPick(item.id)}
        >
          <b>{item.name}</b>
          <small>{'positions' in item ? `${pinsOf(item).length} pins, ${item.radios.join(', ')}` : item.summary}</small>
        </button>
      ))}
    </section>
  )
}

const refusal = z.object({ problems: z.array(z.custom<Problem>()).optional() })

/** A board or part from a file; what is wrong with it is told by line and column. */
function BringIn({ onIn }: { onIn: (id: string) => void }) {
  const field = useRef<HTMLInputElement>(null)
  const [problems, setProblems] = useState<{ name: string; error: string; list: Problem[] } | null>(null)
  const take = async (file: File) => {
    const answer = await ask('/api/shelf', z.object({ id: z.string(), name: z.string() }), { text: await file.text() })
    if (field.current) field.current.value = ''
    if (answer.kind === 'ok') {
      setProblems(null)
      say(`${answer.value.name} is on the shelf.`)
      onIn(answer.value.id)
    } else if (answer.kind === 'away')
      setProblems({ name: file.name, error: 'The server cannot be reached.', list: [] })
    else
      setProblems({ name: file.name, error: answer.error, list: refusal.safeParse(answer.body).data?.problems ?? [] })
  }
  return (
    <>
      <div className="fact">
        <label htmlFor="s-item">bring in a board or part file</label>
        <Form.Control
          id="s-item"
          ref={field}
          type="file"
          accept=".json"
          style={{ width: 250 }}
          onChange={(e) => {
            const f = (e.target as HTMLInputElement).files?.[0]
            if (f) void take(f)
          }}
        />
      </div>
      {problems && (
        <div
          role="alert"
          className="caution"
          data-problems
          style={{
            position: 'absolute',
            right: 28,
            top: 124,
            zIndex: 5,
            maxWidth: 620,
            maxHeight: 380,
            overflow: 'auto',
          }}
        >
          <strong>
            {problems.name}: {problems.error}
          </strong>
          {problems.list.map((p, i) => (
            <div key={i} className="small">
              line {p.line}, column {p.column}
              {p.path && `, ${p.path}`}: found {p.found}, expected {p.expected}
              {p.nearest === null ? '' : `; did you mean “${p.nearest}”?`}
            </div>
          ))}
          <Button variant="quiet" className="mt-2" onClick={() => setProblems(null)}>
            Close
          </Button>
        </div>
      )}
    </>
  )
}
