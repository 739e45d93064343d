'use client'
import { useRouter, useSearchParams } from 'next/navigation'
import { Fragment, useRef, useState } from 'react'
import { Button } from 'react-bootstrap'
import { COLUMNS, type Column, type ThreadRow } from '@/core/loom/threadRows'
import { nameSchema } from '@/core/model/design'
import { slugFrom } from '@/core/model/slug'
import { AirRows } from '@/ui/air/AirRows'
import { EditField } from '@/ui/fields/EditField'
import { Margin } from '@/ui/findings/Margin'
import { heardWords, statusWords } from '@/ui/live/nowWords'
import { edit, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useKeys } from '@/ui/keys/useKeys'
import { useClock } from '@/ui/live/useClock'
import { Ferrule } from '@/ui/thread/Ferrule'
import { ThreadRun } from '@/ui/thread/ThreadRun'
import { Fact } from '@/ui/shell/Fact'
import { AddPart } from './AddPart'
import { Bench } from './Bench'
import { NodeActs } from './NodeActs'
import { NowCell } from './NowCell'
import { RunningFact } from './RunningFact'
import { shortened } from '@/ui/thread/shortened'

const HEADS: Record<Column, string> = {
  part: 'part',
  terminals: 'terminals',
  wires: 'wires',
  pins: 'pins',
  conditioning: 'conditioning',
  calibration: 'calibration',
  entity: 'entity, topic',
  now: 'now',
}
const WIDTHS: Record<Column, number> = {
  part: 116,
  terminals: 124,
  wires: 114,
  pins: 112,
  conditioning: 144,
  calibration: 124,
  entity: 108,
  now: 110,
}
/** Where nothing is calibrated that column gives its room to the names beside it. */
function spare(column: Column, rows: readonly ThreadRow[]): number {
  if (rows.some((r) => r.cells.calibration.state !== 'none')) return 0
  const given: Partial<Record<Column, number>> = { calibration: -100, part: 30, entity: 70 }
  return given[column] ?? 0
}

/** Bench behind each column. */
const BENCH: Record<Column, string> = {
  part: 'parts',
  terminals: 'parts',
  wires: 'wires',
  pins: 'pins',
  conditioning: 'tune',
  calibration: 'tune',
  entity: 'publish',
  now: 'publish',
}

/** What two lines of the part's column take. */
const PART_LETTERS = 26

export function Loom() {
  return <Bench name="Loom">{(view) => <LoomOf view={view} />}</Bench>
}

function LoomOf({ view }: { view: NodeView }) {
  const { node, board, derived } = view
  const now = useClock()
  const asked = useSearchParams().get('thread')
  const [at, setAt] = useState<{ signal: string | null; column: Column }>({ signal: asked, column: 'part' })
  const [adding, setAdding] = useState(false)
  const focusRow = derived.rows.find((r) => r.signalId === at.signal)
  const designed = derived.rows.filter((r) => r.woven).length
  const { wires } = derived.wiring
  const made = wires.filter((w) => node.design.wires[w.key]?.made).length

  useKeys({ n: () => setAdding(true) })

  return (
    <>
      <div className="title">
        <NodeName view={view} />
        <Fact name="board" value={board.name} />
        <Fact
          name="designed"
          value={`${designed} of ${derived.rows.length} ${derived.rows.length === 1 ? 'thread' : 'threads'}`}
        />
        <Fact name="made" value={`${made} of ${wires.length} wires`} />
        <RunningFact view={view} />
        <Fact
          name="heard"
          value={`${heardWords(node.live, now)}${node.live.health?.dbm != null ? `, ${String(node.live.health.dbm).replace('-', '−')} dBm` : ''}`}
        />
        {node.live.status?.is === 'offline' && <Fact name="link" value="gone: no sign of life" />}
        {node.live.status?.is === 'asleep' && <Fact name="link" value={statusWords(node.live, now)} />}
      </div>
      <div className="place">
        <div className="work">
          {derived.rows.length === 0 ? (
            <div className="empty">
              <h2>What should it know or do?</h2>
              <p>
                Say it in a word, such as level, press or temperature: the shelf shows the parts that can, and brings
                their pins and wires along.
              </p>
              <Button onClick={() => setAdding(true)}>Choose a part</Button>
            </div>
          ) : (
            <Grid view={view} now={now} at={at} onMove={setAt} />
          )}
          <AirRows nodeId={node.id} slug={node.design.slug} online={node.live.status?.is === 'online'} now={now} />
          {derived.rows.length > 0 && (
            <div className="py-3 px-0">
              <Button variant="bare" onClick={() => setAdding(true)}>
                <kbd>N</kbd>&ensp;new signal: what should it know or do?
              </Button>
            </div>
          )}
          <NodeActs view={view} />
        </div>
        <aside className="margin" aria-label="margin">
          <Margin
            nodeId={node.id}
            design={node.design}
            findings={derived.findings}
            focus={focusRow?.signalId ?? null}
          />
        </aside>
      </div>
      <AddPart view={view} show={adding} onHide={() => setAdding(false)} />
    </>
  )
}

/** The node's name, changed where it stands. Its topic follows unless another node has it. */
function NodeName({ view }: { view: NodeView }) {
  const router = useRouter()
  const [editing, setEditing] = useState(false)
  const { design, id } = view.node
  const nodes = useLive((s) => s.nodes)
  if (!editing)
    return (
      <h1>
        <Button
          variant="bare"
          onClick={() => setEditing(true)}
          aria-label={`rename ${design.name}`}
          className="text-decoration-none"
        >
          {design.name}
        </Button>
      </h1>
    )
  const rename = (name: string) => {
    setEditing(false)
    const slug = slugFrom(
      name,
      Object.values(nodes)
        .filter((n) => n.id !== id)
        .map((n) => n.design.slug),
    )
    if (edit(id, { kind: 'identify', name, slug, place: design.place })) router.replace(`/node/${slug}`)
  }
  return (
    <div
      onKeyDown={(e) => {
        if (e.key === 'Escape') setEditing(false)
      }}
    >
      <h1 className="visually-hidden">{design.name}</h1>
      <EditField
        id="node-name"
        label="name of the node"
        value={design.name}
        schema={nameSchema}
        onSave={rename}
        width={260}
      />
    </div>
  )
}

interface GridProps {
  view: NodeView
  now: number
  at: { signal: string | null; column: Column }
  onMove: (at: { signal: string; column: Column }) => void
}

/** Signals down, the way of a signal across. Arrows move, Enter opens the bench of the column at the thread. */
function Grid({ view, now, at, onMove }: GridProps) {
  const router = useRouter()
  const table = useRef<HTMLTableElement>(null)
  const { rows } = view.derived
  const here = rows.findIndex((r) => r.signalId === at.signal)
  const row = Math.max(0, here)
  const open = (r: ThreadRow, column: Column) =>
    router.push(`/node/${view.node.design.slug}/${BENCH[column]}?thread=${r.signalId}`)
  const move = (down: number, right: number) => {
    const next = rows[Math.min(rows.length - 1, Math.max(0, row + down))]
    const column = COLUMNS[Math.min(COLUMNS.length - 1, Math.max(0, COLUMNS.indexOf(at.column) + right))]
    if (!next || !column) return
    onMove({ signal: next.signalId, column })
    table.current?.querySelector<HTMLElement>(`[data-cell="${next.signalId}-${column}"]`)?.focus()
  }
  const onKeyDown = (e: React.KeyboardEvent) => {
    if (e.target instanceof HTMLButtonElement && (e.key === 'Enter' || e.key === ' ')) return
    const current = rows[row]
    if (e.key === 'ArrowDown') move(1, 0)
    else if (e.key === 'ArrowUp') move(-1, 0)
    else if (e.key === 'ArrowRight') move(0, 1)
    else if (e.key === 'ArrowLeft') move(0, -1)
    else if (e.key === 'Enter' && current) open(current, at.column)
    else return
    e.preventDefault()
  }
  return (
    <table className="loom" role="grid" ref={table} onKeyDown={onKeyDown} aria-label="the loom">
      <colgroup>
        {COLUMNS.map((c) => (
          <col key={c} style={{ width: `${(WIDTHS[c] + spare(c, rows)) / 9.52}%` }} />
        ))}
      </colgroup>
      <thead>
        <tr>
          {COLUMNS.map((c) => (
            <th key={c} scope="col">
              <span className={spare(c, rows) < 0 ? 'visually-hidden' : undefined}>{HEADS[c]}</span>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r, i) => (
          <tr key={r.signalId} className={r.signalId === at.signal ? 'on' : ''} data-signal={r.signal.slug}>
            {COLUMNS.map((column) => (
              <td
                key={column}
                role="gridcell"
                data-head={HEADS[column]}
                data-cell={`${r.signalId}-${column}`}
                tabIndex={(here < 0 ? i === 0 : i === here) && column === at.column ? 0 : -1}
                onFocus={() => {
                  if (at.signal !== r.signalId || at.column !== column) onMove({ signal: r.signalId, column })
                }}
                onDoubleClick={() => open(r, column)}
              >
                <Face view={view} row={r} column={column} now={now} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** A name keeps its end; printed labels break between one and the next. */
function factOf(fact: string, column: Column) {
  if (column === 'part') return shortened(fact, PART_LETTERS)
  return fact.split('·').map((label, i) => (
    <Fragment key={i}>
      {i > 0 && (
        <>
          ·<wbr />
        </>
      )}
      {label}
    </Fragment>
  ))
}

function Face({ view, row, column, now }: { view: NodeView; row: ThreadRow; column: Column; now: number }) {
  if (column === 'now')
    return (
      <>
        <div className="face now">
          <NowCell view={view} row={row} now={now} />
        </div>
        <ThreadRun signal={row.signal} state={row.cells.entity.state === 'open' ? 'open' : 'settled'} />
      </>
    )
  const cell = row.cells[column]
  const printed = column === 'terminals' || column === 'pins'
  return (
    <>
      <div className={`face ${cell.state === 'open' ? 'open' : ''} ${printed ? 'big mono' : ''}`}>
        <b title={cell.fact}>{factOf(cell.fact, column)}</b>
        <small title={cell.detail} style={printed ? { fontFamily: 'var(--bs-font-sans-serif)' } : undefined}>
          {cell.detail}
        </small>
        {cell.state !== 'settled' && cell.state !== 'none' && <span className="visually-hidden">{cell.state}</span>}
      </div>
      <ThreadRun signal={row.signal} state={cell.state} />
      {column === 'part' && (
        <span className="at-ferrule">
          <Ferrule signal={row.signal} />
        </span>
      )}
    </>
  )
}
