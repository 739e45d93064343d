'use client'
import { useSearchParams } from 'next/navigation'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { findPins, pinByLabel, pinsOf } from '@/core/catalog/board'
import { consequence } from '@/core/alternatives/consequence'
import { explainPin, type PinReason } from '@/core/alternatives/explainPin'
import { type PlanLine, lineName, planLines } from '@/core/lines/lines'
import { priceOf } from '@/core/pins/planPins'
import { lineTag, netOf } from '@/core/wiring/netlist'
import { Margin } from '@/ui/findings/Margin'
import { edit, editAll, lightThread, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { usePlanning } from '@/ui/plan/usePlanning'
import { Ferrule, NetFerrule } from '@/ui/thread/Ferrule'
import { Fact } from '@/ui/shell/Fact'
import { Bench } from '../Bench'
import { type Aim, BoardEdge } from './BoardEdge'
import { Boards } from './Boards'

export interface LineView {
  key: string
  name: string
  tag: string
  signalId: string | null
  pin: string | undefined
  locked: boolean
}

export function Pins() {
  return <Bench name="Pins">{(view) => <PinsOf view={view} />}</Bench>
}

/** What the plan costs, what is free, and a cheaper plan where one was found. */
function PlanFacts({
  view: {
    node: { design, id },
    board,
  },
  lines,
  open,
}: {
  view: NodeView
  lines: PlanLine[]
  open: number
}) {
  const afresh = usePlanning('afresh', design)
  const price = priceOf(design, board, lines, design.plan.pins)
  const used = new Set(Object.values(design.plan.pins))
  const free = pinsOf(board).filter((p) => !used.has(p.label) && !design.keptFree[p.label])
  const best = afresh.result?.kind === 'planned' ? afresh.result : null
  const searching = afresh.words ? `, looking for a cheaper one: ${afresh.words}` : ''
  const bounded = best?.proven ? ', proven least' : `, none can be below ${best?.bound.cost ?? 0}`
  const proof = best && best.price.cost >= price.cost ? bounded : ''
  const cheaper = best && !afresh.busy && open === 0 && best.price.cost < price.cost ? best : null
  return (
    <>
      <Fact
        name="plan"
        value={open > 0 ? `${open} without a pin` : `cost ${price.cost}${afresh.busy ? searching : proof}`}
      >
        {afresh.busy && afresh.words && <Button onClick={afresh.stop}>Stop</Button>}
      </Fact>
      <Fact
        name="free"
        value={`${free.length} pins, ${free.filter((p) => p.functions.includes('adc1')).length} analog`}
      />
      {cheaper && (
        <div className="fact" data-afresh>
          planned afresh
          <strong>
            cost {cheaper.price.cost}, moves {cheaper.moves.length}
            <Button onClick={() => edit(id, { kind: 'accept-plan', pins: cheaper.pins })}>Take it</Button>
          </strong>
        </div>
      )}
    </>
  )
}

function PinsOf({ view }: { view: NodeView }) {
  const {
    node: { design, id },
    board,
    catalog,
    derived,
  } = view
  const asked = useSearchParams().get('thread')
  const lit = useLive((s) => s.thread)
  const thread = asked ?? lit
  const lines = useMemo(() => planLines(design, catalog), [design, catalog])
  const views = lines.map((l): LineView => ({
    key: l.key,
    name: lineName(l),
    pin: design.plan.pins[l.key],
    locked: l.key in design.locks,
    ...(l.members.length > 1 ? { signalId: null, tag: netOf(l) } : lineTag(design, l.kind, l.partId, l.terminal.id)),
  }))
  const first = (thread === null ? undefined : views.find((v) => v.signalId === thread)) ?? views[0]
  const [chosen, setChosen] = useState<string | null>(null)
  const [pin, setPin] = useState<string | null>(null)
  const [aim, setAim] = useState<Aim | null>(null)
  const [turned, setTurned] = useState(false)
  const [all, setAll] = useState(false)
  const [asking, setAsking] = useState(false)
  const line = views.find((v) => v.key === chosen) ?? first
  const open = views.filter((v) => v.pin === undefined).length
  const lock = ({ line: key, pin: to }: Aim) => {
    setAim(null)
    const name = views.find((v) => v.key === key)?.name ?? ''
    if (edit(id, { kind: 'lock', line: key, pin: to })) say(`${name} locked to ${to}. Ctrl-Z takes it back.`)
  }
  const choose = (key: string) => {
    lightThread(views.find((v) => v.key === key)?.signalId ?? null)
    setChosen(key)
    setPin(null)
  }
  return (
    <>
      <div className="title">
        <h1>Pins</h1>
        <PlanFacts view={view} lines={lines} open={open} />
        <PinFinder
          view={view}
          onFound={(label) => {
            const holder = views.find((v) => v.pin === label)
            if (holder) choose(holder.key)
            setPin(label)
          }}
        />
        <div className="fact">
          look
          <strong>
            <Button aria-pressed={turned} onClick={() => setTurned(!turned)} style={{ marginLeft: 0 }}>
              Turn over
            </Button>
            <Button aria-pressed={all} onClick={() => setAll(!all)}>
              All functions
            </Button>
          </strong>
        </div>
      </div>
      <div className="place">
        <div className="work">
          {views.length === 0 ? (
            <div className="empty">
              <h2>No lines yet</h2>
              <p>Parts bring the lines that need pins. Add one on the parts bench.</p>
            </div>
          ) : (
            <BoardEdge
              board={board}
              design={design}
              lines={views}
              chosen={pin === null ? (line?.key ?? null) : null}
              onChoose={choose}
              turned={turned}
              all={all}
              aim={aim}
              onAim={setAim}
              onDrop={lock}
              onPin={setPin}
            />
          )}
          {views.length > 0 && (
            <p className="small soft mt-2 me-0 mb-0 ms-0">
              Drag a thread to another pin, or focus it and use <kbd>↑</kbd> <kbd>↓</kbd> and <kbd>Enter</kbd>: what
              follows is said before you let go.
            </p>
          )}
          <div className="py-3 px-0">
            <Button variant="quiet" aria-expanded={asking} onClick={() => setAsking(!asking)}>
              Which boards carry this?
            </Button>
          </div>
          {asking && <Boards view={view} />}
        </div>
        <aside className="margin" aria-label="margin">
          {aim && <AimBox view={view} aim={aim} name={views.find((v) => v.key === aim.line)?.name ?? ''} />}
          {pin !== null && <PinFacts view={view} label={pin} onClose={() => setPin(null)} />}
          {open > 0 && <Frees view={view} />}
          {line && pin === null && <WhyPin view={view} line={line} reason={explainPin(design, catalog, line.key)} />}
          <Margin
            nodeId={id}
            design={design}
            findings={derived.findings.filter((f) => f.bench === 'pins')}
            all={derived.findings}
          />
        </aside>
      </div>
    </>
  )
}

/** Any of the numbers people use for a pin leads to it. */
function PinFinder({ view, onFound }: { view: NodeView; onFound: (label: string) => void }) {
  const [text, setText] = useState('')
  const found = text.trim() === '' ? [] : findPins(view.board, text)
  return (
    <div className="fact">
      <label htmlFor="pin-find">which pin is</label>
      <Form.Control
        id="pin-find"
        value={text}
        placeholder="GPIO5, D1, 5"
        autoComplete="off"
        style={{ width: 118 }}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && found[0]) onFound(found[0].pin.label)
          e.stopPropagation()
        }}
      />
      {found.length > 0 && (
        <span className="small" data-found style={{ position: 'absolute', background: 'var(--paper)', zIndex: 4 }}>
          {found.map((f) => `printed ${f.pin.label}, chip ${f.pin.chip} (${f.by})`).join('; ')}
        </span>
      )}
    </div>
  )
}

/** What letting go here would bring, before it is done. */
function AimBox({ view, aim, name }: { view: NodeView; aim: Aim; name: string }) {
  const {
    node: { design },
    catalog,
  } = view
  const what = useMemo(() => consequence(design, catalog, aim.line, aim.pin), [design, catalog, aim.line, aim.pin])
  return (
    <section aria-live="polite" data-aim={aim.pin} className="aim">
      <strong>
        {name} on {aim.pin}
      </strong>
      <p className="mt-1 me-0 mb-0 ms-0">
        {what.kind === 'refused'
          ? `Cannot be: ${what.reason}.`
          : `${what.words.charAt(0).toUpperCase()}${what.words.slice(1)}.`}
      </p>
    </section>
  )
}

function PinFacts({ view, label, onClose }: { view: NodeView; label: string; onClose: () => void }) {
  const {
    node: { id, design },
    board,
  } = view
  const pin = pinByLabel(board, label)
  if (!pin) return null
  const kept = design.keptFree[label] === true
  return (
    <section aria-label={`pin ${label}`} data-pin-facts={label}>
      <h2>
        pin {label}, the chip’s {pin.chip}
      </h2>
      <p className="small soft mt-2 me-0 mb-0 ms-0">also called {pin.names.join(', ')}</p>
      {pin.quirks.map((q) => (
        <p key={q.word} className="mt-2 me-0 mb-0 ms-0">
          <b>{q.word}.</b> {q.reason}
        </p>
      ))}
      {pin.quirks.length === 0 && (
        <p className="mt-2 me-0 mb-0 ms-0">Nothing special: quiet at the start, nothing on the board hangs on it.</p>
      )}
      <p className="mt-2 me-0 mb-0 ms-0">
        While the chip starts it {STARTUP[pin.startup]}.
        {pin.onBoard ? ` On the board: ${pin.onBoard.what} to ${pin.onBoard.to}.` : ''}
      </p>
      <div className="pt-2 pe-0 pb-3 ps-0 d-flex gap-2">
        <Button onClick={() => edit(id, { kind: 'keep-free', pin: label, free: !kept })}>
          {kept ? 'Give it back' : 'Keep it free'}
        </Button>
        <Button variant="quiet" onClick={onClose}>
          Back to the thread
        </Button>
      </div>
    </section>
  )
}

const STARTUP: Record<string, string> = {
  floats: 'floats',
  'pulled-up': 'is pulled up weakly',
  'pulled-down': 'is pulled down weakly',
  pulses: 'pulses',
  driven: 'is driven',
  'driven-high': 'is driven high',
  'driven-low': 'is driven low',
}

/** Ways out that have been tried: each says what would still be open after it. */
function Frees({ view }: { view: NodeView }) {
  const {
    node: { id, design },
  } = view
  const { result, busy, stop } = usePlanning('frees', design)
  return (
    <section aria-label="what would free it" data-frees={busy ? 'busy' : 'done'}>
      <h2>what would free it</h2>
      {busy && (
        <p className="small my-2 mx-0">
          Trying …{' '}
          <Button variant="quiet" onClick={stop}>
            Stop
          </Button>
        </p>
      )}
      {result?.map((f) => (
        <div key={f.label} className="py-2 px-0" style={{ borderBottom: '1px solid var(--faint)' }}>
          <Button
            onClick={() => {
              if (editAll(id, f.edits)) say(`${f.label}: done. Ctrl-Z takes it back.`)
            }}
          >
            {f.label}
          </Button>
          <div className="small soft mt-1">
            {f.what}; {f.leaves === 0 ? 'then every line has a pin' : `leaves ${f.leaves} open`}
          </div>
        </div>
      ))}
      {!busy && result?.length === 0 && <p className="small my-2 mx-0">Nothing that can be done at a click helps.</p>}
    </section>
  )
}

function WhyPin({ view, line, reason }: { view: NodeView; line: LineView; reason: PinReason | null }) {
  const {
    node: { id, design },
  } = view
  const signal = line.signalId === null ? undefined : design.signals[line.signalId]
  if (!reason) return null
  const lock = (pin: string) => {
    if (edit(id, { kind: 'lock', line: line.key, pin })) say(`${line.name} locked to ${pin}.`)
  }
  return (
    <section aria-label={`why ${line.pin ?? 'no pin'}`}>
      <h2>
        why {line.pin ?? 'no pin'} for{' '}
        {signal ? (
          <Ferrule signal={signal} suffix={line.tag.slice(signal.tag.length)} />
        ) : (
          <NetFerrule net={line.tag} />
        )}{' '}
        {line.name}
      </h2>
      <p className="pt-3 pe-0 pb-1 ps-0 m-0" data-reason={line.key}>
        {reason.sentence}
      </p>
      {reason.next && (
        <p className="small mt-1 me-0 mb-2 ms-0" data-next>
          Next best: {reason.next.pin}, {reason.next.words}.
        </p>
      )}
      <div>
        {line.locked ? (
          <Button onClick={() => edit(id, { kind: 'unlock', line: line.key })}>Unlock {line.pin}</Button>
        ) : (
          line.pin !== undefined && <Button onClick={() => lock(line.pin ?? '')}>Lock {line.pin}</Button>
        )}
      </div>
      <table className="reasons mt-2">
        <caption className="visually-hidden">other pins</caption>
        <tbody>
          {reason.others.slice(0, 7).map((o) => {
            const less = o.extra < 0 ? `−${-o.extra}` : '±0'
            return (
              <tr key={o.pin}>
                <td>{o.pin}</td>
                <td>
                  {o.why}
                  {o.takenBy && <span className="soft">; has {o.takenBy}</span>}
                </td>
                <td>
                  <Button variant="bare" aria-label={`lock ${line.name} to ${o.pin}`} onClick={() => lock(o.pin)}>
                    {o.extra > 0 ? `+${o.extra}` : less}
                  </Button>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {reason.refused.length > 0 && (
        <>
          <h2
            className="pt-3 pe-0 pb-1 ps-0"
            style={{ border: 0, fontSize: '.9rem', fontWeight: 500, color: 'var(--soft)' }}
          >
            cannot
          </h2>
          <table className="reasons">
            <caption className="visually-hidden">pins it cannot have</caption>
            <tbody>
              {reason.refused.map((r) => (
                <tr key={r.pin}>
                  <td>{r.pin}</td>
                  <td className="text-start">{r.reason}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  )
}
