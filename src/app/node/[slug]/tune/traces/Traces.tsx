'use client'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Channel } from '@/core/catalog/part'
import { nameSchema, type Signal } from '@/core/model/design'
import { hueOf } from '@/core/palette/palette'
import { readMarks, readSamples } from '@/core/trace/traceText'
import { trimmed } from '@/core/trace/trace'
import { unitFactor } from '@/core/units/convert'
import { say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { AlongTrace, othersOf } from './AlongTrace'
import { Field, MarkList } from './MarkList'
import { ThresholdDesk } from './ThresholdDesk'
import { TraceCurve } from './TraceCurve'
import { useRecording } from './useRecording'
import { type Laid, useTraces } from './useTraces'

interface TracesProps {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Extract<Channel, { access: 'reading' }>
}

/** What the part really said, kept: recorded with marks, imported, trimmed; and thresholds chosen on it. */
export function Traces({ view, signalId, signal, channel }: TracesProps) {
  const factor = unitFactor(channel.unit, signal.publish.unit)
  const traces = useTraces(view.node.id, signalId)
  const recording = useRecording(view.node.id, { id: signalId, unit: channel.unit })
  const others = useMemo(() => othersOf(view, signalId), [view, signalId])
  const [along, setAlong] = useState<readonly string[]>([])
  const [word, setWord] = useState('somebody')
  const [forS, setForS] = useState('120')
  const { kept, laid } = traces
  const import_ = async (file: File | undefined) => {
    if (!file) return
    const text = await file.text()
    const marks = readMarks(text)
    if (marks.kind === 'marks' && laid) return void traces.change(laid, { marks: marks.marks })
    const read = readSamples(text)
    if (read.kind === 'none') return say(`${file.name}: ${read.reason}.`, 'refused')
    traces.lay({
      id: null,
      trace: {
        name: file.name.replace(/\.\w+$/, '').slice(0, 40),
        at: read.at ?? new Date().toISOString(),
        unit: channel.unit,
        source: 'import',
        s: read.s,
        value: read.value.map((v) => (v === null ? null : v / factor)),
        marks: [],
      },
    })
  }
  const end = async () => {
    const name = `${signal.name} ${new Date().toTimeString().slice(0, 5)}`.slice(0, 40)
    for (const of of await recording.end(name)) await traces.keep(of.trace, of.signal)
  }
  return (
    <section aria-label="traces" className="pt-3" data-recording={recording.begun}>
      <h2>Traces of {signal.tag}</h2>
      <p className="small soft">
        Record what happens, hold the button or the space bar while it is so, and choose the threshold from it rather
        than from a guess.
      </p>
      <div className="d-flex gap-2 flex-wrap align-items-end">
        {recording.begun ? (
          <>
            <Button onClick={() => void end()}>Stop and keep it</Button>
            <Button
              className="hold-mark"
              variant="quiet"
              aria-pressed={recording.marking}
              onPointerDown={() => recording.hold(true)}
              onPointerUp={() => recording.hold(false)}
              onPointerLeave={() => recording.marking && recording.hold(false)}
              onPointerCancel={() => recording.hold(false)}
              onContextMenu={(e) => e.preventDefault()}
            >
              Hold while it is “{word}”
            </Button>
            <span role="status">
              {recording.samples.length} samples.{' '}
              {recording.marking ? <b>“{word}” is marked</b> : <>Space does the same.</>}
            </span>
          </>
        ) : (
          <>
            <Field id="record-word" label="what space marks" width={130} value={word} onChange={setWord} />
            <Field id="record-for" label="at most, s" width={90} value={forS} onChange={setForS} />
            <Button
              onClick={() =>
                void recording.begin(
                  others.filter((o) => along.includes(o.id)),
                  Math.min(600, Math.max(10, Number(forS) || 120)),
                  100,
                  word.trim().slice(0, 24) || 'on',
                )
              }
            >
              Record
            </Button>
            {others.length > 0 && (
              <fieldset className="along">
                <legend className="small mb-0">along with it</legend>
                {others.map((o) => (
                  <Form.Check
                    key={o.id}
                    inline
                    id={`along-${o.id}`}
                    label={o.tag}
                    title={o.name}
                    checked={along.includes(o.id)}
                    onChange={(e) => setAlong(e.target.checked ? [...along, o.id] : along.filter((x) => x !== o.id))}
                  />
                ))}
              </fieldset>
            )}
            {kept.length > 0 && (
              <div>
                <Form.Label htmlFor="kept" className="small mb-0">
                  kept
                </Form.Label>
                <Form.Select
                  id="kept"
                  size="sm"
                  value={laid?.id ?? ''}
                  onChange={(e) => void traces.open(e.target.value)}
                >
                  <option value="">choose one …</option>
                  {kept.map((t) => (
                    <option key={t.id} value={t.id}>
                      {t.name}, {t.n} samples, {t.marks.length} marks
                    </option>
                  ))}
                </Form.Select>
              </div>
            )}
            <div>
              <Form.Label htmlFor="trace-file" className="small mb-0">
                CSV or SenML of raw values, in {signal.publish.unit}
              </Form.Label>
              <Form.Control
                id="trace-file"
                type="file"
                size="sm"
                accept=".csv,.json,text/csv,application/json"
                onChange={(e) => void import_((e.target as HTMLInputElement).files?.[0])}
              />
            </div>
          </>
        )}
      </div>
      {recording.begun && recording.samples.length > 1 && (
        <TraceCurve
          s={recording.samples.map((x) => x.s)}
          value={recording.samples.map((x) => x.value)}
          factor={factor}
          unit={signal.publish.unit}
          hue={hueOf(signal)}
          label={`${signal.tag} as it is recorded`}
          marks={[]}
          decimals={signal.publish.decimals}
        />
      )}
      {!recording.begun && laid && (
        <>
          <ThresholdDesk
            key={laid.id ?? laid.trace.at}
            view={view}
            signalId={signalId}
            signal={signal}
            channel={channel}
            trace={laid.trace}
            factor={factor}
          />
          {traces.along(laid.trace).map((t) => (
            <AlongTrace key={t.id} view={view} kept={t} marks={laid.trace.marks} />
          ))}
          <LaidTrace laid={laid} node={view.node.id} traces={traces} />
        </>
      )}
    </section>
  )
}

/** Its marks, its name, its ends, and its files. */
function LaidTrace({ laid, node, traces }: { laid: Laid; node: string; traces: ReturnType<typeof useTraces> }) {
  const { trace, id } = laid
  const lastS = trace.s.at(-1) ?? 0
  const [name, setName] = useState(trace.name)
  const [ends, setEnds] = useState({ from: '0', to: lastS.toFixed(0) })
  const rename = () => {
    const parsed = nameSchema.safeParse(name)
    if (!parsed.success) return say(parsed.error.issues[0]?.message ?? 'another name', 'refused')
    void (id === null ? traces.keep({ ...trace, name: parsed.data }) : traces.change(laid, { name: parsed.data }))
  }
  const trim = () => {
    const left = trimmed(trace, Number(ends.from) || 0, Number(ends.to) || lastS)
    if (!left) return say('Fewer than two samples would be left.', 'refused')
    void traces.keep({ ...left, name: `${trace.name} trimmed`.slice(0, 40) })
  }
  const file = (as: string) => `/api/nodes/${node}/traces/${id}?as=${as}`
  return (
    <div className="d-flex gap-4 flex-wrap pt-2">
      <MarkList
        key={`marks ${id}`}
        marks={trace.marks}
        lastS={lastS}
        onChange={(marks) => void traces.change(laid, { marks })}
      />
      <div>
        <p className="small soft mb-1">{id === null ? 'Not kept yet.' : 'Kept in the shop.'}</p>
        <div className="d-flex gap-2 align-items-end">
          <Field id="trace-name" label="name" width={190} value={name} onChange={setName} />
          <Button variant="quiet" onClick={rename}>
            {id === null ? 'Keep it' : 'Name it'}
          </Button>
        </div>
        <div className="d-flex gap-2 align-items-end pt-1">
          <Field
            id="trim-from"
            label="from, s"
            width={80}
            value={ends.from}
            onChange={(from) => setEnds({ ...ends, from })}
          />
          <Field id="trim-to" label="to, s" width={80} value={ends.to} onChange={(to) => setEnds({ ...ends, to })} />
          <Button variant="quiet" onClick={trim}>
            Keep this much
          </Button>
        </div>
        {id !== null && (
          <p className="small pt-2 mb-0">
            <a href={file('csv')}>CSV</a> · <a href={file('senml')}>SenML</a> · <a href={file('marks')}>marks</a> ·{' '}
            <Button variant="bare" onClick={() => void traces.drop(id)}>
              delete it
            </Button>
          </p>
        )}
      </div>
    </div>
  )
}
