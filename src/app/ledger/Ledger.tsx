'use client'
import { useVirtualizer } from '@tanstack/react-virtual'
import { memo, type RefObject, useDeferredValue, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { inOrder } from '@/core/model/design'
import type { LedgerRow } from '@/wire/protocol'
import { FrameDrawing } from '@/ui/air/FrameDrawing'
import { SeverityMark } from '@/ui/findings/SeverityMark'
import { useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { Fact } from '@/ui/shell/Fact'
import { useNarrow } from '@/ui/shell/useNarrow'
import { useRows } from './useRows'

const KINDS = ['all', 'understood', 'odd', 'refused', 'passed'] as const
type Kind = (typeof KINDS)[number]
const KIND_WORDS: Record<Kind, string> = {
  all: 'all messages',
  understood: 'understood',
  odd: 'odd',
  refused: 'refused',
  passed: 'only passed on',
}
/** Height of a row, px; two lines on a small screen. */
const ROW = { wide: 34, narrow: 56 }

/** Every message as it passes: who said what on which topic, and what the product made of it. */
export function Ledger() {
  const shop = useLive((s) => s.shop.name)
  const nodes = useLive((s) => s.nodes)
  const [paused, setPaused] = useState(false)
  const [text, setText] = useState('')
  const [node, setNode] = useState('')
  const [signal, setSignal] = useState('')
  const [kind, setKind] = useState<Kind>('all')
  const demo = useLive((s) => s.demo)
  const [standins, setStandins] = useState(false)
  const [open, setOpen] = useState<LedgerRow | null>(null)
  const { rows, waiting, cut } = useRows(paused)
  // Typing goes before looking through fifty thousand rows.
  const wanted = useDeferredValue(text)
  const shown = useMemo(() => {
    const words = wanted.toLowerCase().split(/\s+/).filter(Boolean)
    return rows.filter(
      (r) =>
        (standins || !r.topic.startsWith('standin/')) &&
        (kind === 'all' || r.mark === kind) &&
        (node === '' || r.topic.split('/')[1] === node) &&
        (signal === '' || r.topic.split('/')[2] === signal) &&
        words.every((w) => wordsOf(r).includes(w)),
    )
  }, [rows, wanted, node, signal, kind, standins])
  const signals = Object.values(nodes).flatMap((n) => (n.design.slug === node ? inOrder(n.design.signals) : []))
  const box = useRef<HTMLDivElement>(null)
  const row = useNarrow() ? ROW.narrow : ROW.wide
  // The newest stands on top: the list is read from its end.
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is compiled to memos
  const list = useVirtualizer({
    count: shown.length,
    getScrollElement: () => box.current,
    estimateSize: () => row,
    overscan: 12,
  })
  const away = (list.scrollOffset ?? 0) > row
  useReadingPlace(box, row, shown, `${wanted}\n${node}\n${signal}\n${kind}\n${standins}`)

  return (
    <Shell
      crumbs={[{ name: shop, href: '/' }, { name: 'Ledger' }]}
      here="Ledger"
      back="/"
      last={paused ? `paused, ${waiting} waiting` : null}
    >
      <div className="title">
        <h1>Ledger</h1>
        <Fact name="shown" value={`${shown.length} of ${rows.length}`} />
        <div className="fact">
          <label htmlFor="l-text">with these words</label>
          <Form.Control
            id="l-text"
            value={text}
            onChange={(e) => setText(e.target.value)}
            style={{ width: 200 }}
            autoComplete="off"
          />
        </div>
        <div className="fact">
          <label htmlFor="l-node">node</label>
          <Form.Select
            id="l-node"
            value={node}
            onChange={(e) => {
              setNode(e.target.value)
              setSignal('')
            }}
            className="w-auto"
          >
            <option value="">every node</option>
            {Object.values(nodes).map((n) => (
              <option key={n.id}>{n.design.slug}</option>
            ))}
          </Form.Select>
        </div>
        {signals.length > 0 && (
          <div className="fact">
            <label htmlFor="l-signal">signal</label>
            <Form.Select id="l-signal" value={signal} onChange={(e) => setSignal(e.target.value)} className="w-auto">
              <option value="">every signal</option>
              {signals.map(({ id, value: s }) => (
                <option key={id} value={s.slug}>
                  {s.tag} {s.name}
                </option>
              ))}
            </Form.Select>
          </div>
        )}
        <div className="fact">
          <label htmlFor="l-kind">kind</label>
          <Form.Select
            id="l-kind"
            value={kind}
            onChange={(e) => setKind(KINDS.find((k) => k === e.target.value) ?? 'all')}
            className="w-auto"
          >
            {KINDS.map((k) => (
              <option key={k} value={k}>
                {KIND_WORDS[k]}
              </option>
            ))}
          </Form.Select>
        </div>
        {demo && (
          <Form.Check
            id="l-standins"
            label="what stand-ins tell"
            checked={standins}
            onChange={(e) => setStandins(e.target.checked)}
          />
        )}
        {away && <Button onClick={() => list.scrollToOffset(0)}>To the newest</Button>}
        <Button aria-pressed={paused} onClick={() => setPaused(!paused)}>
          {paused ? `Go on (${waiting})` : 'Pause'}
        </Button>
      </div>
      <div className="place">
        <div className="work ledger" ref={box} tabIndex={0} aria-label="messages">
          {cut && (
            <p role="status">
              Cut off from the server: the rows below may not be the latest. It is tried again by itself.
            </p>
          )}
          <div className="ledger-head" aria-hidden="true">
            <span>time</span>
            <span />
            <span>topic</span>
            <span>value</span>
            <span>bytes</span>
            <span>kept</span>
            <span>who</span>
          </div>
          <div
            role="table"
            aria-label="messages, newest first"
            aria-rowcount={shown.length}
            className="position-relative"
            style={{ height: list.getTotalSize() }}
          >
            {list.getVirtualItems().map((item) => {
              const message = shown[shown.length - 1 - item.index]
              return (
                message && (
                  <Line
                    key={message.id}
                    row={message}
                    index={item.index}
                    top={item.start}
                    chosen={open?.id === message.id}
                    onOpen={setOpen}
                  />
                )
              )
            })}
          </div>
          {rows.length === 0 && <p className="soft pt-3">No message yet.</p>}
        </div>
        <aside className="margin" aria-label="margin">
          {open ? (
            <Opened row={open} />
          ) : (
            <p className="small soft pt-2">Open a message to see all of it, and what was understood.</p>
          )}
        </aside>
      </div>
    </Shell>
  )
}

const lowered = new WeakMap<LedgerRow, string>()

/** What the words of a filter are looked for in; made once for a row. */
function wordsOf(row: LedgerRow): string {
  let words = lowered.get(row)
  if (words === undefined)
    lowered.set(row, (words = `${row.topic} ${row.payload} ${row.from} ${row.understood}`.toLowerCase()))
  return words
}

/**
 * Whoever has scrolled down keeps what they read where it is while newer rows come in above it; another filter begins
 * at the newest again.
 */
function useReadingPlace(
  box: RefObject<HTMLDivElement | null>,
  height: number,
  shown: LedgerRow[],
  filter: string,
): void {
  const seen = useRef({ filter, newest: 0 })
  useLayoutEffect(() => {
    const was = seen.current
    seen.current = { filter, newest: shown.at(-1)?.id ?? 0 }
    if (!box.current) return
    if (was.filter !== filter) box.current.scrollTo({ top: 0 })
    else if (box.current.scrollTop > height)
      box.current.scrollBy({ top: height * (shown.length - 1 - shown.findLastIndex((r) => r.id <= was.newest)) })
  }, [box, height, shown, filter])
}

const Line = memo(function Line({
  row,
  index,
  top,
  chosen,
  onOpen,
}: {
  row: LedgerRow
  index: number
  top: number
  chosen: boolean
  onOpen: (row: LedgerRow) => void
}) {
  return (
    <div
      role="row"
      aria-rowindex={index + 1}
      className={`ledger-row ${chosen ? 'on' : ''}`}
      style={{ top }}
      data-mark={row.mark}
    >
      <span role="cell">{clock(row.at)}</span>
      <span role="cell">
        <Mark mark={row.mark} />
      </span>
      <span role="cell" className="mono">
        <button type="button" onClick={() => onOpen(row)}>
          {row.topic || '–'}
        </button>
      </span>
      <span role="cell" className="mono">
        {row.payload || row.understood}
      </span>
      <span role="cell">{row.size}</span>
      <span role="cell">{row.retained ? 'yes' : ''}</span>
      <span role="cell">{row.from}</span>
    </div>
  )
})

/** Odd and refused messages by shape and word. */
function Mark({ mark }: { mark: LedgerRow['mark'] }) {
  if (mark === 'refused')
    return (
      <span className="mark">
        <SeverityMark severity="stop" /> refused
      </span>
    )
  if (mark === 'odd')
    return (
      <span className="mark">
        <SeverityMark severity="fix" /> odd
      </span>
    )
  return null
}

function Opened({ row }: { row: LedgerRow }) {
  return (
    <section aria-label="the message">
      <h2>message at {clock(row.at)}</h2>
      <p className="mt-3 me-0 mb-1 ms-0" data-understood={row.mark}>
        <b>{row.understood}</b>
      </p>
      <p className="small soft m-0">
        from {row.from}, quality {row.qos}, {row.size} bytes{row.retained ? ', retained' : ''}
      </p>
      <p className="mono small mt-2 me-0 mb-1 ms-0" style={{ overflowWrap: 'anywhere' }}>
        {row.topic}
      </p>
      {row.topic.endsWith('/rx/subghz') && <FrameDrawing payload={row.payload} />}
      <pre
        className="mono small p-2"
        tabIndex={0}
        style={{
          whiteSpace: 'pre-wrap',
          overflowWrap: 'anywhere',
          background: '#fff',
          border: '1px solid var(--hair)',
          maxHeight: 420,
          overflow: 'auto',
        }}
      >
        {pretty(row.payload)}
      </pre>
    </section>
  )
}

/** Time of day here, to the millisecond. */
function clock(iso: string): string {
  return `${new Date(iso).toLocaleTimeString('en-GB')}${iso.slice(19, 23)}`
}

function pretty(payload: string): string {
  try {
    const value: unknown = JSON.parse(payload)
    return typeof value === 'object' ? JSON.stringify(value, null, 2) : payload
  } catch {
    return payload
  }
}
