'use client'
import Link from 'next/link'
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from 'react'
import type { EditBody } from '@/core/edits/edit'
import type { SheetRow } from '@/core/publish/entitySheet'
import { renameCost } from '@/core/publish/renameCost'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { slugFrom } from '@/core/model/slug'
import { editAll, say, useLive } from '@/ui/live/store'
import { Ferrule } from '@/ui/thread/Ferrule'
import { type Column, COLUMNS } from './columns'

interface At {
  row: number
  col: number
}

interface SheetTableProps {
  rows: readonly SheetRow[]
  /** Whether rows of several nodes stand in it, each below its node's name. */
  whole: boolean
  /** What else stands in a row: its value now. */
  now?: (row: SheetRow) => ReactNode
}

/**
 * What the controller will hold, a row for each signal. By keyboard: arrows move, Enter changes, Space marks rows, and a
 * change in one marked row goes to all of them; T copies the topic.
 */
export function SheetTable({ rows, whole, now }: SheetTableProps) {
  const [at, setAt] = useState<At>({ row: 0, col: 1 })
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  const [text, setText] = useState<string | null>(null)
  const box = useRef<HTMLTableElement>(null)
  const row = rows[Math.min(at.row, rows.length - 1)]
  const column = COLUMNS[at.col]

  useEffect(() => {
    if (text === null && box.current?.contains(document.activeElement))
      box.current.querySelector<HTMLElement>('[data-cell="here"]')?.focus()
  }, [at, text])

  const chosen = (): readonly SheetRow[] =>
    row && marked.has(row.entityId) ? rows.filter((r) => marked.has(r.entityId)) : rows.filter((r) => r === row)

  const put = (value: string) => {
    if (!column) return
    const byNode = new Map<string, EditBody[]>()
    for (const r of chosen().filter((c) => column.has(c) && column.show(c) !== value)) {
      const edit = column.edit(r, value)
      if ('problem' in edit) return say(`${r.name}: ${edit.problem}`, 'refused')
      byNode.set(r.nodeId, [...(byNode.get(r.nodeId) ?? []), edit])
    }
    const done = [...byNode].every(([id, edits]) => editAll(id, edits))
    const n = [...byNode.values()].flat().length
    if (done && n > 1) say(`${column.head}: ${n} rows changed together.`)
    setText(null)
  }
  const begin = () => {
    if (!row || !column?.has(row)) return
    const choices = column.choices?.(row)
    if (!choices) return setText(column.show(row))
    put(choices[(choices.indexOf(column.show(row)) + 1) % choices.length] ?? '')
  }
  const copy = (r: SheetRow, which: 'topic' | 'set' | 'id') => {
    const words = { topic: r.topic, set: r.set ?? r.topic, id: r.entityId }[which]
    void navigator.clipboard.writeText(words).then(
      () => say(`Copied: ${words}`),
      () => say(`This page may not write to the clipboard. It is: ${words}`, 'refused'),
    )
  }
  const mark = (ids: readonly string[]) =>
    setMarked((was) => {
      const all = new Set(was)
      for (const id of ids) if (!all.delete(id)) all.add(id)
      return all
    })
  const keys: Record<string, () => void> = {
    ArrowDown: () => setAt((a) => ({ ...a, row: Math.min(rows.length - 1, a.row + 1) })),
    ArrowUp: () => setAt((a) => ({ ...a, row: Math.max(0, a.row - 1) })),
    ArrowRight: () => setAt((a) => ({ ...a, col: Math.min(COLUMNS.length - 1, a.col + 1) })),
    ArrowLeft: () => setAt((a) => ({ ...a, col: Math.max(0, a.col - 1) })),
    Home: () => setAt((a) => ({ ...a, col: 0 })),
    End: () => setAt((a) => ({ ...a, col: COLUMNS.length - 1 })),
    Enter: begin,
    F2: begin,
    ' ': () => row && mark([row.entityId]),
    t: () => row && copy(row, 'topic'),
    c: () => row && copy(row, 'set'),
    i: () => row && copy(row, 'id'),
    a: () => setMarked(marked.size === rows.length ? new Set() : new Set(rows.map((r) => r.entityId))),
  }
  const onKeyDown = (e: KeyboardEvent) => {
    if (text !== null || e.ctrlKey || e.metaKey || e.altKey) return
    const act = keys[e.key.length === 1 ? e.key.toLowerCase() : e.key]
    if (e.key === 'Escape' && marked.size > 0) setMarked(new Set())
    else if (act) act()
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  return (
    <table className="table entities stacked" role="grid" aria-label="entities" ref={box} onKeyDown={onKeyDown}>
      <thead>
        <tr>
          <th scope="col">thread</th>
          {COLUMNS.map((c) => (
            <th scope="col" key={c.id}>
              {c.head}
            </th>
          ))}
          <th scope="col">says</th>
          {now && <th scope="col">now</th>}
        </tr>
      </thead>
      <tbody>
        {rows.map((r, i) => (
          <SheetLine
            key={r.entityId}
            row={r}
            first={whole && rows[i - 1]?.nodeId !== r.nodeId}
            isMarked={marked.has(r.entityId)}
            here={i === at.row ? at.col : null}
            text={i === at.row ? text : null}
            onText={setText}
            onPut={put}
            onAt={(col) => setAt({ row: i, col })}
            onBegin={begin}
            onMark={() => mark([r.entityId])}
            now={now}
          />
        ))}
      </tbody>
    </table>
  )
}

interface LineProps {
  row: SheetRow
  first: boolean
  isMarked: boolean
  /** Column the keyboard is at, or null. */
  here: number | null
  text: string | null
  onText: (text: string | null) => void
  onPut: (text: string) => void
  onAt: (col: number) => void
  onBegin: () => void
  onMark: () => void
  now?: (row: SheetRow) => ReactNode
}

function SheetLine({ row, first, isMarked, here, text, onText, onPut, onAt, onBegin, onMark, now }: LineProps) {
  return (
    <>
      {first && (
        <tr className="of-node">
          <td colSpan={COLUMNS.length + 3}>
            <Link href={`/node/${row.node}/publish`}>{row.nodeName}</Link>
            <span className="soft small">
              {' '}
              {row.place ?? 'in no place'}; topics below <span className="mono">{row.topic.replace(/[^/]*$/, '')}</span>
              ; gone {row.goneAfterS} s after its last word
            </span>
          </td>
        </tr>
      )}
      <tr
        data-entity={row.signal.slug}
        data-marked={isMarked}
        aria-selected={isMarked}
        className={row.offered ? '' : 'not-offered'}
      >
        <td className="text-nowrap">
          <button type="button" className="bare" tabIndex={-1} aria-label={`mark ${row.name}`} onClick={onMark}>
            <span className="tick" aria-hidden>
              {isMarked ? '■' : '□'}
            </span>
          </button>{' '}
          <Ferrule signal={row.signal} />
          {row.group && (
            <small className="d-block soft">
              {row.group.role} of {row.group.name}
            </small>
          )}
        </td>
        {COLUMNS.map((column, col) => (
          <Cell
            key={column.id}
            {...{ row, column, text: here === col ? text : null, onText, onPut, onBegin }}
            here={here === col}
            onAt={() => onAt(col)}
          />
        ))}
        <td className="small">{row.words ? row.words.join(' · ') : row.kind}</td>
        {now && <td className="now-said">{now(row)}</td>}
      </tr>
    </>
  )
}

interface CellProps {
  row: SheetRow
  column: Column
  here: boolean
  text: string | null
  onText: (text: string | null) => void
  onPut: (text: string) => void
  onAt: () => void
  onBegin: () => void
}

function Cell({ row, column, here, text, onText, onPut, onAt, onBegin }: CellProps) {
  const shown = column.has(row) || column.id === 'unit' ? column.show(row) : ''
  return (
    <td
      role="gridcell"
      data-head={column.head}
      data-cell={here ? 'here' : ''}
      data-column={column.id}
      tabIndex={here ? 0 : -1}
      aria-label={`${column.head} of ${row.name}: ${shown}`}
      onFocus={onAt}
      onMouseDown={() => {
        // What has the keyboard already is changed by another touch.
        if (here && text === null) onBegin()
      }}
    >
      {text === null ? (
        <>
          {shown}
          {column.id === 'slug' && row.set !== null && <span className="soft small"> + /set</span>}
        </>
      ) : (
        <input
          autoFocus
          onFocus={(e) => e.target.select()}
          className="form-control"
          aria-label={`${column.head} of ${row.name}`}
          value={text}
          onChange={(e) => onText(e.target.value)}
          onBlur={() => onText(null)}
          onKeyDown={(e) => {
            e.stopPropagation()
            if (e.key === 'Enter') onPut(text)
            else if (e.key === 'Escape') onText(null)
          }}
        />
      )}
      {text !== null && column.id === 'slug' && <RenameCost row={row} text={text} />}
    </td>
  )
}

/** What a new topic costs, while it is being typed. */
function RenameCost({ row, text }: { row: SheetRow; text: string }) {
  const design = useLive((s) => s.nodes[row.nodeId]?.design)
  const slug = slugFrom(text, [])
  if (!design || slug === row.signal.slug || text.trim() === '') return null
  const { topics, words } = renameCost(DEFAULT_ROOT, design, row.signalId, slug)
  return (
    <p className="small rename-cost" role="status">
      {topics[0]?.from} becomes <b>{topics[0]?.to}</b>. {words.join(' ')}
    </p>
  )
}
