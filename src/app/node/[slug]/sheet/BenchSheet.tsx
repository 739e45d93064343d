'use client'
import { partsOf, together } from '@/ui/findings/together'
import Link from 'next/link'
import { useEffect, useMemo } from 'react'
import { Button } from 'react-bootstrap'
import { runChecks } from '@/core/checks/runChecks'
import { inOrder } from '@/core/model/design'
import { railsOf } from '@/core/power/rails'
import { restsOf } from '@/core/power/switching'
import { ohms, volts } from '@/core/units/format'
import { drawSheets } from '@/core/wiring/drawing'
import { drawingSvg } from '@/core/wiring/drawingSvg'
import { partRows, scheduleOf } from '@/core/wiring/schedule'
import { workSteps } from '@/core/wiring/workSteps'
import { useMeasurements } from '@/ui/live/measurements'
import { useConnection } from '@/ui/live/useConnection'
import { type NodeView, useNode } from '@/ui/live/useNode'

/** Height of a drawing that fits a page of A4 beside its heading, in the drawing's own px. */
const PAGE_HEIGHT = 1120

/**
 * Everything for the bench on paper: cautions, schedule, drawing, parts, measurements and labels; black and white will
 * do.
 */
export function BenchSheet() {
  const view = useNode()
  const link = useConnection()
  return <div data-link={link}>{view ? <Sheet view={view} /> : <p>…</p>}</div>
}

function Sheet({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    board,
    catalog,
    around,
    derived: { wiring },
  } = view
  const { readings } = useMeasurements(id)
  useEffect(() => {
    document.title = `${design.name} · sheet for the bench`
  }, [design.name])
  const rows = useMemo(() => scheduleOf(design, wiring), [design, wiring])
  const drawings = useMemo(
    () => drawSheets(design, catalog, board, wiring, PAGE_HEIGHT),
    [design, catalog, board, wiring],
  )
  // Cautions are on paper whether or not someone has acknowledged them on screen.
  const findings = useMemo(() => runChecks(design, catalog, wiring, around), [design, catalog, wiring, around])
  const cautions = findings.filter((f) => f.caution)
  const open = findings.filter((f) => !f.caution && f.severity !== 'note')
  const measures = workSteps(design, catalog, wiring).flatMap((s) => (s.kind === 'measure' ? [s.measure] : []))
  const rests = restsOf(design, catalog)
  const found = inOrder(design.parts).filter((p) => p.value.found)
  return (
    <div className="sheet-page">
      <nav aria-label="sheet" className="no-print py-3 px-4 d-flex gap-3">
        <Link href={`/node/${design.slug}/wires`}>back to the wires</Link>
        <Button variant="primary" onClick={() => window.print()}>
          Print
        </Button>
      </nav>
      <main className="sheet">
        <h1>{design.name}</h1>
        <p>
          {around.place !== null && `${around.place} · `}
          {board.name} · {rows.length} wires, {rows.filter((r) => r.made).length} made · fed by{' '}
          {railsOf(design, board, catalog).find((r) => r.id === design.boardFeed)?.name ?? 'USB'}
        </p>
        {cautions.length > 0 && <h2>Cautions</h2>}
        {together(cautions).map(([f, ...alike]) => (
          <div key={f.key} className="caution">
            <strong>
              {f.caution?.title}: {partsOf(design, [f, ...alike])}
            </strong>
            {f.caution?.text} Local codes and licensed practice come first.
          </div>
        ))}
        <div className="caution">
          <strong>At the bench</strong>Touch ground before you touch the chip. Solder with fresh air and glasses. Work
          with the supply off; measure before the chip goes in.
        </div>
        {open.length > 0 && (
          <>
            <h2>Still open in the design</h2>
            <ul>
              {open.map((f) => (
                <li key={f.key}>
                  <b>{f.severity}</b> {f.sentence}
                </li>
              ))}
            </ul>
          </>
        )}
        <h2>Wires</h2>
        <table>
          <thead>
            <tr>
              <th>
                <span className="visually-hidden">made</span>
              </th>
              <th>no.</th>
              <th>tag</th>
              <th>from</th>
              <th>to</th>
              <th>insulation</th>
              <th>mm²</th>
              <th>length</th>
              <th>note</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.key}>
                <td>
                  <span className="box">{r.made ? '✓' : ''}</span>
                </td>
                <td>{`W${r.number}`}</td>
                <td>
                  <span className="tag">{r.tag}</span>
                </td>
                <td>{r.from}</td>
                <td>{r.to}</td>
                <td>{r.insulation}</td>
                <td>{r.gaugeMm2}</td>
                <td className="nowrap">{r.lengthM < 1 ? `${Math.round(r.lengthM * 100)} cm` : `${r.lengthM} m`}</td>
                <td>{r.note}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {drawings.map((d, i) => (
          <section key={i} className="drawing">
            <h2>Drawing{drawings.length > 1 ? ` ${i + 1} of ${drawings.length}` : ''}</h2>
            {/* The picture is made by the core from the design; its words are escaped there. */}
            <div
              dangerouslySetInnerHTML={{
                __html: drawingSvg(d, `Wiring of ${design.name}`, () => '#222', {
                  font: 'inherit',
                  mono: 'var(--bs-font-monospace)',
                }),
              }}
            />
          </section>
        ))}
        {rests.length > 0 && (
          <>
            <h2>Without power of the node</h2>
            <ul>
              {rests.map((r) => (
                <li key={r}>{r}</li>
              ))}
            </ul>
          </>
        )}
        <h2>Parts</h2>
        <table>
          <thead>
            <tr>
              <th>count</th>
              <th>what</th>
              <th>value</th>
              <th>where</th>
            </tr>
          </thead>
          <tbody>
            {partRows(design, catalog, board, wiring).map((r) => (
              <tr key={r.what + r.value}>
                <td>{r.count}</td>
                <td>{r.what}</td>
                <td>{r.value}</td>
                <td>{r.names}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <h2>Measurements</h2>
        <table>
          <thead>
            <tr>
              <th>
                <span className="visually-hidden">done</span>
              </th>
              <th>what</th>
              <th>how</th>
              <th>has to be</th>
              <th>reads</th>
            </tr>
          </thead>
          <tbody>
            {measures.map((m) => {
              const last = readings?.measurements.find((x) => x.place === m.key)
              const as = m.unit === 'V' ? volts : ohms
              return (
                <tr key={m.key}>
                  <td>
                    <span className="box">{last?.ok ? '✓' : ''}</span>
                  </td>
                  <td>{m.title}</td>
                  <td>{m.how}</td>
                  <td className="nowrap">{m.unit === 'V' ? `${as(m.min)} … ${as(m.max)}` : `≥ ${as(m.min)}`}</td>
                  <td className="nowrap">{last ? `${as(last.value)} ${last.who}` : '…………'}</td>
                </tr>
              )
            })}
          </tbody>
        </table>
        {found.length > 0 && (
          <>
            <h2>Labels for the old wires: put on before anything is unscrewed</h2>
            <div className="labels">
              {found.map(({ id: partId, value: p }) => (
                <div key={partId} className="label">
                  <b>
                    {p.found?.terminal} {p.label}
                  </b>
                  supply {p.found?.supply || '–'} · common {p.found?.common || '–'} · signal {p.found?.signal || '–'}
                  {p.found?.note && (
                    <>
                      <br />
                      {p.found.note}
                    </>
                  )}
                </div>
              ))}
            </div>
          </>
        )}
      </main>
    </div>
  )
}
