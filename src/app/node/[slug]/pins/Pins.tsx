'use client'
import { useSearchParams } from 'next/navigation'
import { useMemo, useState } from 'react'
import { Button } from 'react-bootstrap'
import { pinsOf } from '@/core/catalog/board'
import { explainPin, type PinReason } from '@/core/pins/explainPin'
import { lineName, planLines } from '@/core/pins/lines'
import { planPins, priceOf } from '@/core/pins/planPins'
import { lineTag } from '@/core/wiring/netlist'
import { Margin } from '@/ui/findings/Margin'
import { edit, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule, NetFerrule } from '@/ui/thread/Ferrule'
import { Fact } from '../../../Shop'
import { Bench } from '../Bench'
import { BoardEdge } from './BoardEdge'

export interface LineView { key: string; name: string; tag: string; signalId: string | null; pin: string | undefined; locked: boolean }

export function Pins() {
  return <Bench name="Pins">{(view) => <PinsOf view={view} />}</Bench>
}

function PinsOf({ view }: { view: NodeView }) {
  const { node: { design, id }, board, catalog, derived } = view
  const thread = useSearchParams().get('thread')
  const lines = useMemo(() => planLines(design, catalog), [design, catalog])
  const views = lines.map((l): LineView => ({
    key: l.key, name: lineName(l), ...lineTag(design, l.kind, l.partId, l.terminal.id), pin: design.plan.pins[l.key], locked: l.key in design.locks,
  }))
  const first = views.find((v) => v.signalId === thread) ?? views[0]
  const [chosen, setChosen] = useState<string | null>(null)
  const line = views.find((v) => v.key === chosen) ?? first
  const afresh = useMemo(() => planPins(design, catalog, { past: 'afresh' }), [design, catalog])
  const price = priceOf(design, board, lines, design.plan.pins)
  const used = new Set(Object.values(design.plan.pins))
  const free = pinsOf(board).filter((p) => !used.has(p.label) && !design.keptFree[p.label])
  const open = views.filter((v) => v.pin === undefined).length
  return (
    <>
      <div className="title">
        <h1>Pins</h1>
        <Fact name="plan" value={open > 0 ? `${open} without a pin` : `cost ${price.cost}${afresh.kind === 'planned' && afresh.price.cost === price.cost ? ', proven least' : ''}`} />
        <Fact name="free" value={`${free.length} pins, ${free.filter((p) => p.functions.includes('adc1')).length} of them analog`} />
        <Fact name="locked" value={String(Object.keys(design.locks).length)} />
        {afresh.kind === 'planned' && open === 0 && afresh.price.cost < price.cost && (
          <div className="fact">planned afresh<strong>cost {afresh.price.cost}, moves {afresh.moves.length}<Button onClick={() => edit(id, { kind: 'accept-plan', pins: afresh.pins })}>Take it</Button></strong></div>
        )}
      </div>
      <div className="place">
        <div className="work">
          {views.length === 0 ? <div className="empty"><h2>No lines yet</h2><p>Parts bring the lines that need pins. Add one on the parts bench.</p></div>
            : <BoardEdge board={board} design={design} lines={views} chosen={line?.key ?? null} onChoose={setChosen} />}
        </div>
        <aside className="margin" aria-label="margin">
          {line && <WhyPin view={view} line={line} reason={explainPin(design, catalog, line.key)} />}
          <Margin nodeId={id} design={design} findings={derived.findings.filter((f) => f.bench === 'pins')} />
        </aside>
      </div>
    </>
  )
}

function WhyPin({ view, line, reason }: { view: NodeView; line: LineView; reason: PinReason | null }) {
  const { node: { id, design } } = view
  const signal = line.signalId === null ? undefined : design.signals[line.signalId]
  if (!reason) return null
  const lock = (pin: string) => { if (edit(id, { kind: 'lock', line: line.key, pin })) say(`${line.name} locked to ${pin}.`) }
  return (
    <section aria-label={`why ${line.pin ?? 'no pin'}`}>
      <h2>why {line.pin ?? 'no pin'} for {signal ? <Ferrule signal={signal} suffix={line.tag.slice(signal.tag.length)} /> : <NetFerrule net={line.tag} />} {line.name}</h2>
      <p style={{ padding: '11px 0 4px', margin: 0 }} data-reason={line.key}>{reason.sentence}</p>
      <div>
        {line.locked
          ? <Button onClick={() => edit(id, { kind: 'unlock', line: line.key })}>Unlock {line.pin}</Button>
          : line.pin !== undefined && <Button onClick={() => lock(line.pin ?? '')}>Lock {line.pin}</Button>}
      </div>
      <table className="reasons" style={{ marginTop: 10 }}><caption className="visually-hidden">other pins</caption><tbody>
        {reason.others.slice(0, 7).map((o) => (
          <tr key={o.pin}>
            <td>{o.pin}</td><td>{o.why}{o.takenBy && <span className="soft">; has {o.takenBy}</span>}</td>
            <td><Button variant="bare" aria-label={`lock ${line.name} to ${o.pin}`} onClick={() => lock(o.pin)}>{o.extra > 0 ? `+${o.extra}` : o.extra < 0 ? `−${-o.extra}` : '±0'}</Button></td>
          </tr>
        ))}
      </tbody></table>
      {reason.refused.length > 0 && (
        <>
          <h2 style={{ border: 0, fontSize: '.9rem', fontWeight: 500, color: 'var(--soft)', padding: '14px 0 2px' }}>cannot</h2>
          <table className="reasons"><caption className="visually-hidden">pins it cannot have</caption><tbody>
            {reason.refused.map((r) => <tr key={r.pin}><td>{r.pin}</td><td style={{ textAlign: 'left' }}>{r.reason}</td></tr>)}
          </tbody></table>
        </>
      )}
    </section>
  )
}

