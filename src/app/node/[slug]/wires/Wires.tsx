'use client'
import { railWords } from '@/core/edits/names'
import Link from 'next/link'
import { useSearchParams } from 'next/navigation'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { CALCULATIONS } from '@/core/calculations/calculations'
import { GAUGES } from '@/core/calculations/wireCalculation'
import { checkContext } from '@/core/checks/context'
import { type NamedSum, calculationsOf } from '@/core/checks/calculationsOf'
import { PROPOSED } from '@/core/palette/insulation'
import type { AddedComponent, Design } from '@/core/model/design'
import { drawWiring } from '@/core/wiring/drawing'
import type { Wiring } from '@/core/wiring/netlist'
import { scheduleOf, type ScheduleRow } from '@/core/wiring/schedule'
import { Margin } from '@/ui/findings/Margin'
import { CalculationSheet } from '@/ui/findings/CalculationSheet'
import { edit, lightThread, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule, NetFerrule } from '@/ui/thread/Ferrule'
import { Fact } from '@/ui/shell/Fact'
import { Bench } from '../Bench'
import { Files } from './Files'
import { Places } from './Places'
import { WireDrawing } from './WireDrawing'

export function Wires() {
  return <Bench name="Wires">{(view) => <WiresOf view={view} />}</Bench>
}

function WiresOf({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    board,
    catalog,
    derived,
  } = view
  const asked = useSearchParams().get('thread')
  const lit = useLive((s) => s.thread)
  const picked = lit !== null && lit in design.signals ? lit : asked
  const setPicked = lightThread
  const drawing = useMemo(
    () => drawWiring(design, catalog, board, derived.wiring),
    [design, catalog, board, derived.wiring],
  )
  const rows = useMemo(() => scheduleOf(design, derived.wiring), [design, derived.wiring])
  const made = rows.filter((r) => r.made).length
  const at = `/node/${design.slug}`
  return (
    <>
      <div className="title">
        <h1>Wires</h1>
        <Fact name="made" value={`${made} of ${rows.length}`} />
        <Fact
          name="added parts"
          value={derived.wiring.components.length === 0 ? 'none' : String(derived.wiring.components.length)}
        />
        {rows.length > 0 && (
          <div className="tools">
            <Link className="btn btn-primary" href={`${at}/wires/work`}>
              Work through it
            </Link>
            <Link className="btn btn-quiet" href={`${at}/sheet`}>
              Sheet for the bench
            </Link>
            <Files view={view} drawing={drawing} />
          </div>
        )}
      </div>
      <div className="place">
        <div className="work">
          {rows.length === 0 ? (
            <div className="empty">
              <h2>No wires yet</h2>
              <p>Parts bring their wires along. Add one on the parts bench.</p>
            </div>
          ) : (
            <>
              <WireDrawing drawing={drawing} design={design} focus={picked} onPick={setPicked} />
              <h2 className="mt-4">From – to</h2>
              <Schedule rows={rows} view={view} picked={picked} onPick={setPicked} />
              <p className="soft small">
                The contact side of relays (COM, NO) belongs to the load’s own circuit and is not in this schedule.
                Insulation and gauge can be changed in place.
              </p>
              <Added view={view} />
              <Places view={view} />
              <Sums view={view} />
            </>
          )}
        </div>
        <aside className="margin" aria-label="margin">
          <Margin
            nodeId={id}
            design={design}
            findings={derived.findings.filter((f) => f.bench === 'wires')}
            all={derived.findings}
            focus={picked ?? asked}
          />
        </aside>
      </div>
    </>
  )
}

function Schedule({
  rows,
  view,
  picked,
  onPick,
}: {
  rows: ScheduleRow[]
  view: NodeView
  picked: string | null
  onPick: (signalId: string | null) => void
}) {
  const { id, design } = view.node
  return (
    <table className="table schedule">
      <thead>
        <tr>
          <th scope="col">no.</th>
          <th scope="col">tag</th>
          <th scope="col">from</th>
          <th scope="col">to</th>
          <th scope="col">insulation</th>
          <th scope="col">mm²</th>
          <th scope="col">length</th>
          <th scope="col">note</th>
          <th scope="col">made</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => {
          const signal = r.signalId === null ? undefined : design.signals[r.signalId]
          const number = `W${r.number}`
          return (
            <tr
              key={r.key}
              onMouseEnter={() => onPick(r.signalId)}
              data-wire={number}
              className={picked !== null && r.signalId === picked ? 'on' : ''}
            >
              <td>
                <b>{number}</b>
              </td>
              <td>
                {signal ? (
                  <Ferrule signal={signal} suffix={r.tag.slice(signal.tag.length)} />
                ) : (
                  <NetFerrule net={r.tag} />
                )}
              </td>
              <td>{r.from}</td>
              <td>{r.to}</td>
              <td>
                <select
                  className="table-cell-control"
                  aria-label={`insulation of ${number}`}
                  value={r.insulation}
                  onChange={(e) => edit(id, { kind: 'set-wire', wire: r.key, set: { insulation: e.target.value } })}
                >
                  {[...new Set([r.insulation, ...PROPOSED])].map((c) => (
                    <option key={c}>{c}</option>
                  ))}
                </select>
              </td>
              <td>
                <select
                  className="table-cell-control"
                  aria-label={`gauge of ${number}, mm²`}
                  value={r.gaugeMm2}
                  onChange={(e) =>
                    edit(id, { kind: 'set-wire', wire: r.key, set: { gaugeMm2: Number(e.target.value) } })
                  }
                >
                  {[...new Set([r.gaugeMm2, ...GAUGES])]
                    .sort((a, b) => a - b)
                    .map((g) => (
                      <option key={g}>{g}</option>
                    ))}
                </select>
              </td>
              <td className="nowrap">{r.lengthM < 1 ? `${Math.round(r.lengthM * 100)} cm` : `${r.lengthM} m`}</td>
              <td className="soft small">{r.note}</td>
              <td>
                <Form.Check
                  aria-label={`${number} is made`}
                  checked={r.made}
                  onChange={(e) => edit(id, { kind: 'mark-wire', wire: r.key, made: e.target.checked })}
                />
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** Where an added component sits: its part and place, its rail, or the load it lies across. */
function whereOf(design: Design, { components }: Wiring, c: AddedComponent): string {
  if ('rail' in c) {
    const rail = railWords(design, c.rail)
    return c.type === 'feed-diode' ? `in the feed of the board from ${rail}` : `at ${rail}`
  }
  if ('part' in c) return `across ${design.parts[c.part]?.label ?? 'a load'}`
  return `${design.parts[c.line.split('.')[0] ?? '']?.label ?? 'a shared line'}, ${components.find((x) => x.name === c.names[0])?.place ?? ''}`
}

/** What the design adds, each with where it sits and a way to take it out again. */
function Added({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    derived,
  } = view
  if (derived.wiring.components.length === 0) return null
  return (
    <section aria-label="added parts">
      <h2 className="mt-4">Added parts</h2>
      <table className="table">
        <tbody>
          {Object.entries(design.added).map(([componentId, c]) => (
            <tr key={componentId} data-component={c.names[0]}>
              <td>
                <b>{c.names.join(', ')}</b>
              </td>
              <td>
                {derived.wiring.components
                  .filter((x) => c.names.some((n) => n === x.name))
                  .map((x) => `${x.what} ${x.value}`)
                  .join(', ')}
              </td>
              <td className="soft">{whereOf(design, derived.wiring, c)}</td>
              <td className="text-end">
                <Button variant="quiet" onClick={() => edit(id, { kind: 'remove-component', componentId })}>
                  Take out
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

/** The arithmetic this design calls for, filled in from it. */
function Sums({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    catalog,
    derived,
  } = view
  const [open, setOpen] = useState<NamedSum | null>(null)
  const sums = useMemo(() => {
    const context = checkContext(design, catalog, derived.wiring)
    return context ? calculationsOf(context) : []
  }, [design, catalog, derived.wiring])
  return (
    <section aria-label="arithmetic">
      <h2 className="mt-4">Arithmetic</h2>
      <ul className="plain-list">
        {sums.map((s, i) => (
          <li key={i}>
            <Button variant="bare" onClick={() => setOpen(s)} data-sum-of={s.id}>
              {s.subject}: {CALCULATIONS[s.id].title.toLowerCase()}
            </Button>
          </li>
        ))}
      </ul>
      {open && (
        <CalculationSheet nodeId={id} design={design} sum={open} subject={open.subject} onHide={() => setOpen(null)} />
      )}
    </section>
  )
}
