'use client'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { useEffect, useMemo, useRef, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { pinsOf } from '@/core/catalog/board'
import { ohms, volts } from '@/core/units/format'
import { endWords } from '@/core/wiring/schedule'
import { type Measurement, type WorkStep, workSteps } from '@/core/wiring/workSteps'
import { Ferrule, NetFerrule } from '@/ui/thread/Ferrule'
import { ask } from '@/ui/live/api'
import { useMeasurements } from '@/ui/live/measurements'
import { author, edit, say, undo } from '@/ui/live/store'
import { useConnection } from '@/ui/live/useConnection'
import { type NodeView, useNode } from '@/ui/live/useNode'
import { countWords } from '@/ui/findings/countWords'
import { useKeys } from '@/ui/keys/useKeys'
import { SaidLine } from '@/ui/shell/SaidLine'
import { ThreadPatterns } from '@/ui/thread/ThreadRun'

/**
 * One step a screen, in print that is read with a tool in the other hand. Space goes on, Enter ticks, the left arrow
 * goes back.
 */
export function WorkThrough() {
  const view = useNode()
  const link = useConnection()
  return (
    <div data-link={link}>
      {view ? (
        <Steps view={view} />
      ) : (
        <main className="workthrough">
          <p>…</p>
        </main>
      )}
    </div>
  )
}

function Steps({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    catalog,
    derived,
  } = view
  const router = useRouter()
  const steps = useMemo(() => workSteps(design, catalog, derived.wiring), [design, catalog, derived.wiring])
  const { readings, refresh } = useMeasurements(id)
  const [at, setAt] = useState<number | null>(null)
  const done = (s: WorkStep) =>
    s.kind === 'wire' ? s.row.made : (readings?.measurements.some((m) => m.place === s.key && m.ok) ?? false)
  const first = steps.findIndex((s) => !done(s))
  const index = Math.min(at ?? (readings ? Math.max(0, first) : 0), steps.length)
  const step = steps[index]
  const stops = derived.findings.filter((f) => f.severity === 'stop')
  const go = (to: number) => setAt(Math.max(0, Math.min(steps.length, to)))
  const tick = (s: WorkStep | undefined) => {
    if (s?.kind === 'wire') edit(id, { kind: 'mark-wire', wire: s.key, made: !s.row.made })
  }

  const on = () => go(index + 1)
  const back = () => router.push(`/node/${design.slug}/wires`)
  useKeys({ '$mod+z': () => undo(id), Escape: back })
  useKeys(
    {
      Space: on,
      ArrowRight: on,
      ArrowLeft: () => go(index - 1),
      Enter: () => {
        tick(step)
        on()
      },
    },
    { onButtons: false },
  )

  return (
    <main className="workthrough" data-step={index}>
      <div className="top">
        <b>{design.name}</b>
        <span>
          step {Math.min(index + 1, steps.length)} of {steps.length} · {steps.filter(done).length} done
        </span>
        <span>
          {stops.length > 0 ? (
            <Link href={`/node/${design.slug}/wires`}>{countWords(stops)}: read before you go on</Link>
          ) : (
            'no stop stands against it'
          )}
        </span>
        <Link href={`/node/${design.slug}/wires`}>leave (Esc)</Link>
      </div>
      {step === undefined && (
        <div className="step">
          <h1>
            {steps.every(done)
              ? 'Everything is made and measured.'
              : `${steps.filter((s) => !done(s)).length} steps are still open.`}
          </h1>
        </div>
      )}
      {step?.kind === 'wire' && <WireStep key={step.key} step={step} view={view} onTick={() => tick(step)} />}
      {step?.kind === 'measure' && (
        <MeasureStep
          key={step.key}
          nodeId={id}
          measure={step.measure}
          last={readings?.measurements.find((m) => m.place === step.key)}
          onKept={refresh}
        />
      )}
      <div className="bottom">
        <Button variant="quiet" disabled={index === 0} onClick={() => go(index - 1)}>
          ← back
        </Button>
        <span className="soft">
          <kbd>Space</kbd> on &emsp; <kbd>Enter</kbd> made, and on &emsp; <kbd>←</kbd> back
        </span>
        <Button variant="primary" disabled={index >= steps.length} onClick={() => go(index + 1)}>
          on →
        </Button>
      </div>
      <SaidLine />
      <ThreadPatterns />
    </main>
  )
}

function WireStep({
  step,
  view,
  onTick,
}: {
  step: Extract<WorkStep, { kind: 'wire' }>
  view: NodeView
  onTick: () => void
}) {
  const {
    node: { id, design },
    board,
  } = view
  const { row, line } = step
  const signal = row.signalId === null ? undefined : design.signals[row.signalId]
  const [other, setOther] = useState(false)
  const { from, to } = row.wire
  const end = (e: typeof from) => {
    if (e.kind === 'part' || e.kind === 'leg')
      return { owner: e.owner, label: e.kind === 'leg' ? (e.label.split('.').at(-1) ?? e.label) : e.label }
    if (e.kind === 'pin') return { owner: 'board', label: e.label }
    return { owner: e.owner, label: e.label }
  }
  return (
    <div className="step" data-wire-step={`W${row.number}`}>
      <p className="facts mt-0 me-0 mb-3 ms-0">
        W{row.number} &ensp;
        {signal ? <Ferrule signal={signal} suffix={row.tag.slice(signal.tag.length)} /> : <NetFerrule net={row.tag} />}
      </p>
      <div className="ends">
        <div>
          {end(from).owner}
          <b>{end(from).label}</b>
        </div>
        <svg className="between" aria-hidden="true">
          <rect y="5" width="100%" height="7" fill={signal ? `url(#ply-${signal.hue})` : 'var(--ink)'} />
        </svg>
        <div>
          {end(to).owner}
          <b>{end(to).label}</b>
        </div>
      </div>
      <p className="facts">
        {row.insulation}, {row.gaugeMm2} mm²,{' '}
        {row.lengthM < 1 ? `${Math.round(row.lengthM * 100)} cm` : `${row.lengthM} m`}
        {row.note && ` · ${row.note}`}
      </p>
      <p className="facts">
        <Button variant={row.made ? 'quiet' : 'primary'} onClick={onTick} data-tick>
          {row.made ? '✓ made (take back)' : 'Made'}
        </Button>
        {line && to.kind === 'pin' && (
          <>
            {' '}
            &ensp;{' '}
            <Button variant="quiet" onClick={() => setOther(!other)}>
              It went to another pin
            </Button>
          </>
        )}
      </p>
      {other && line && (
        <Form.Select
          aria-label="the pin it went to"
          style={{ maxWidth: 280, fontSize: '1.3rem' }}
          defaultValue=""
          onChange={(e) => {
            if (edit(id, { kind: 'made-otherwise', line: line.key, pin: e.target.value }))
              say(`${endWords(from)} is on ${e.target.value} now; everything has been checked again.`)
            setOther(false)
          }}
        >
          <option value="" disabled>
            choose the pin
          </option>
          {pinsOf(board)
            .filter((p) => p.label !== design.plan.pins[line.key])
            .map((p) => (
              <option key={p.label}>{p.label}</option>
            ))}
        </Form.Select>
      )}
    </div>
  )
}

interface MeasureStepProps {
  nodeId: string
  measure: Measurement
  last: { value: number; ok: boolean; who: string; at: string } | undefined
  onKept: () => void
}

/** A reading to take: between what and what, with which meter, and the verdict once it is entered. */
function MeasureStep({ nodeId, measure, last, onKept }: MeasureStepProps) {
  const [text, setText] = useState('')
  const [told, setTold] = useState<{ ok: boolean; words: string } | null>(null)
  const field = useRef<HTMLInputElement>(null)
  useEffect(() => field.current?.focus(), [])
  const as = measure.unit === 'V' ? volts : ohms
  const keep = async () => {
    const value = Number(text.trim().replace(',', '.').replace(/k$/i, 'e3').replace(/m$/i, 'e6'))
    if (text.trim() === '' || !Number.isFinite(value))
      return setTold({ ok: false, words: `Enter what the meter shows, in ${measure.unit}; 4k7 is 4700.` })
    const answer = await ask(`/api/nodes/${nodeId}/measurements`, z.object({ ok: z.boolean(), words: z.string() }), {
      place: measure.key,
      value,
      who: author(),
    })
    if (answer.kind === 'ok') {
      setTold(answer.value)
      onKept()
    } else
      setTold({
        ok: false,
        words: answer.kind === 'away' ? 'The server cannot be reached; nothing was kept.' : answer.error,
      })
  }
  return (
    <div className="step" data-measure={measure.key}>
      <h1>Measure {measure.title}</h1>
      <p className="how">{measure.how}</p>
      <p className="facts">
        {measure.unit === 'V' ? (
          <>
            between <b>{as(measure.min)}</b> and <b>{as(measure.max)}</b>
          </>
        ) : (
          <>
            <b>{as(measure.min)}</b> or more
          </>
        )}{' '}
        <span className="soft">· {measure.why}</span>
      </p>
      <Form
        className="facts d-flex gap-3 align-items-center"

        onSubmit={(e) => {
          e.preventDefault()
          void keep()
        }}
      >
        <Form.Control
          ref={field}
          aria-label={`reading, ${measure.unit}`}
          value={text}
          onChange={(e) => setText(e.target.value)}
          inputMode="decimal"
          autoComplete="off"
        />
        <span>{measure.unit}</span>
        <Button type="submit" variant="primary">
          Keep it
        </Button>
      </Form>
      {told && (
        <p className="verdict facts" data-ok={told.ok} role="status">
          {told.ok ? '✓' : '✕'} {told.words}
        </p>
      )}
      {!told && last && (
        <p className="facts soft">
          last: {as(last.value)}, {last.ok ? 'as it should be' : 'not as it should be'}
          {last.who && `, ${last.who}`}
        </p>
      )}
    </div>
  )
}
