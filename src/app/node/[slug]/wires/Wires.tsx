'use client'
import { useSearchParams } from 'next/navigation'
import { useMemo, useState } from 'react'
import { Form } from 'react-bootstrap'
import { drawWiring } from '@/core/wiring/drawing'
import type { End } from '@/core/wiring/netlist'
import { Margin } from '@/ui/findings/Margin'
import { edit } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule, NetFerrule } from '@/ui/thread/Ferrule'
import { Fact } from '../../../Shop'
import { Bench } from '../Bench'
import { WireDrawing } from './WireDrawing'

export function Wires() {
  return <Bench name="Wires">{(view) => <WiresOf view={view} />}</Bench>
}

function WiresOf({ view }: { view: NodeView }) {
  const { node: { id, design }, board, catalog, derived } = view
  const asked = useSearchParams().get('thread')
  const [picked, setPicked] = useState<string | null>(asked)
  const drawing = useMemo(() => drawWiring(design, catalog, board, derived.wiring), [design, catalog, board, derived.wiring])
  const wires = [...derived.wiring.wires].sort((a, b) => (design.wires[a.key]?.number ?? 0) - (design.wires[b.key]?.number ?? 0))
  const made = wires.filter((w) => design.wires[w.key]?.made).length
  const { components } = derived.wiring
  return (
    <>
      <div className="title">
        <h1>Wires</h1>
        <Fact name="made" value={`${made} of ${wires.length}`} />
        <Fact name="added parts" value={components.length === 0 ? 'none' : components.map((c) => `${c.name} ${c.value}`).join(', ')} />
      </div>
      <div className="place">
        <div className="work">
          {wires.length === 0 ? <div className="empty"><h2>No wires yet</h2><p>Parts bring their wires along. Add one on the parts bench.</p></div> : (
            <>
              <WireDrawing drawing={drawing} design={design} focus={picked} onPick={setPicked} />
              <h2 style={{ marginTop: 26 }}>From – to</h2>
              <table className="table schedule">
                <thead><tr><th scope="col">no.</th><th scope="col">tag</th><th scope="col">from</th><th scope="col">to</th><th scope="col">insulation</th><th scope="col">gauge</th><th scope="col">note</th><th scope="col">made</th></tr></thead>
                <tbody>
                  {wires.map((w) => {
                    const stored = design.wires[w.key]
                    const signal = w.signalId === null ? undefined : design.signals[w.signalId]
                    const number = `W${stored?.number ?? ''}`
                    return (
                      <tr key={w.key} onMouseEnter={() => setPicked(w.signalId)} data-wire={number}>
                        <td><b>{number}</b></td>
                        <td>{signal ? <Ferrule signal={signal} suffix={w.tag.slice(signal.tag.length)} /> : <NetFerrule net={w.tag} />}</td>
                        <td><EndWords end={w.from} /></td><td><EndWords end={w.to} /></td>
                        <td>{stored?.insulation}</td><td>{stored?.gaugeMm2} mm²</td><td className="soft">{w.note}</td>
                        <td><Form.Check aria-label={`${number} is made`} checked={stored?.made ?? false} onChange={(e) => edit(id, { kind: 'mark-wire', wire: w.key, made: e.target.checked })} /></td>
                      </tr>
                    )
                  })}
                </tbody>
              </table>
              <p className="soft small">The contact side of relays (COM, NO) belongs to the load’s own circuit and is not in this schedule.</p>
            </>
          )}
        </div>
        <aside className="margin" aria-label="margin"><Margin nodeId={id} design={design} findings={derived.findings.filter((f) => f.bench === 'wires')} focus={asked} /></aside>
      </div>
    </>
  )
}

function EndWords({ end }: { end: End }) {
  if (end.kind === 'rail') return <>rail <b className="mono">{end.label}</b></>
  if (end.kind === 'leg') return <><b className="mono">{end.owner}</b></>
  return <>{end.kind === 'part' ? `${end.owner} ` : 'board '}<b className="mono">{end.label}</b></>
}
