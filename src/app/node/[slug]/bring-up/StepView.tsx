'use client'
import Link from 'next/link'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { BringUpStep, Verdict } from '@/core/bringup/step'
import { judge, meterWords } from '@/core/bringup/verdict'
import { meterNumber } from '@/core/units/meter'
import { WorkingSteps } from '@/ui/findings/WorkingSteps'
import { ask } from '@/ui/live/api'
import { author, rememberAuthor, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { dayAndTime } from '@/ui/live/dayAndTime'
import { MadeOtherwise } from './MadeOtherwise'
import { SpanDrawing } from './SpanDrawing'
import { cautionPlace, type Found } from './useFound'
import { useWatch } from './useWatch'

const verdictSchema = z.looseObject({ ok: z.boolean(), words: z.string() })

interface StepViewProps {
  view: NodeView
  step: BringUpStep
  found: readonly Found[]
  onKept: () => void
}

/** One step: what to do, the span, what was found, the verdict, and causes in the order of a good technician. */
export function StepView({ view, step, found, onKept }: StepViewProps) {
  const { id, design } = view.node
  const last = found.find((f) => f.place === step.key)
  const [text, setText] = useState('')
  const [remark, setRemark] = useState('')
  const [who, setWho] = useState(author())
  const open = step.caution === null || found.some((f) => f.place === cautionPlace(step.key))
  const intervalS = design.signals[step.signalId ?? '']?.publish.intervalS ?? 0
  const seen = useWatch(step, { node: view.node, intervalS, open, last, onKept })
  const value = meterNumber(text) ?? seen.value
  const verdict = verdictOf(step, value, last)

  const post = async (body: object, done: string) => {
    rememberAuthor(who.trim())
    const answer = await ask(`/api/nodes/${id}/bring-up`, verdictSchema, body)
    if (answer.kind !== 'ok') return say(answer.error, 'refused')
    say(done)
    setText('')
    setRemark('')
    onKept()
  }
  const measured = step.expect.kind === 'value'
  const keep = (ok: boolean) =>
    void post(
      { key: step.key, value: measured ? value : null, ok, who: who.trim(), remark: remark.trim() },
      `${step.title}: kept.`,
    )

  const caution = step.caution && (
    <CautionBox
      caution={step.caution}
      open={open}
      who={who}
      onWho={setWho}
      onConfirm={() => void post({ confirm: step.key, who: who.trim() }, 'Confirmed.')}
    />
  )
  return (
    <article className="bringup-step" data-step={step.key} data-verdict={verdictName(verdict)}>
      <h2>{step.title}</h2>
      {caution}
      {open && (
        <>
          <p className="step-how">{step.how}</p>
          <p className="soft">{step.why}</p>
          <Expected step={step} shown={value ?? last?.value ?? null} words={seen.words} />
          <div className="fields step-entry" hidden={step.key === 'trial'}>
            {step.expect.kind === 'value' && (
              <TextField
                id="bu-value"
                label={`what the meter shows, ${step.expect.unit}`}
                width={160}
                value={text}
                placeholder={seen.value === null ? '' : String(seen.value)}
                onValue={setText}
              />
            )}
            <TextField id="bu-remark" label="remark" width={220} value={remark} onValue={setRemark} />
            <TextField id="bu-who" label="who" width={130} value={who} onValue={setWho} />
          </div>
          <div className="fields step-entry" hidden={step.key === 'trial'}>
            {measured ? (
              <Button disabled={value === null} onClick={() => keep(true)}>
                Keep it
              </Button>
            ) : (
              <>
                <Button onClick={() => keep(true)}>As it should be</Button>
                <Button variant="quiet" onClick={() => keep(false)}>
                  It is not
                </Button>
                {seen.again && (
                  <Button variant="quiet" onClick={seen.again}>
                    Watch again
                  </Button>
                )}
              </>
            )}
          </div>
          {verdict && <VerdictBox verdict={verdict} step={step} slug={design.slug} />}
          <AgainstBench step={step} found={found} here={value ?? last?.value ?? null} />
          {last && <LastFound last={last} />}
          <MadeOtherwise view={view} step={step} />
          <Reckoned step={step} />
        </>
      )}
    </article>
  )
}

interface TextFieldProps {
  id: string
  label: string
  width: number
  value: string
  placeholder?: string
  onValue: (value: string) => void
}

function TextField({ id, label, width, value, placeholder, onValue }: TextFieldProps) {
  return (
    <div>
      <Form.Label htmlFor={id}>{label}</Form.Label>
      <Form.Control
        id={id}
        value={value}
        placeholder={placeholder}
        maxLength={300}
        style={{ width }}
        onChange={(e) => onValue(e.target.value)}
      />
    </div>
  )
}

interface CautionBoxProps {
  caution: NonNullable<BringUpStep['caution']>
  open: boolean
  who: string
  onWho: (who: string) => void
  onConfirm: () => void
}

/** What has to be so before the step opens, confirmed by name. */
function CautionBox({ caution, open, who, onWho, onConfirm }: CautionBoxProps) {
  return (
    <div role="alert" className={open ? 'step-caution is-open' : 'step-caution'}>
      <b>{caution.title}.</b> {caution.text}
      {!open && (
        <div className="fields mt-2">
          <Form.Control
            aria-label="who"
            placeholder="who"
            value={who}
            maxLength={60}
            style={{ width: 160 }}
            onChange={(e) => onWho(e.target.value)}
          />
          <Button disabled={who.trim() === ''} onClick={onConfirm}>
            It is so
          </Button>
        </div>
      )}
    </div>
  )
}

function VerdictBox({ verdict, step, slug }: { verdict: Verdict; step: BringUpStep; slug: string }) {
  return (
    <div className={verdict.ok ? 'step-verdict' : 'step-verdict is-wrong'} role="status">
      <p className="startup-head">{verdict.words}</p>
      {verdict.causes.length > 0 && (
        <ol className="startup-next">
          {verdict.causes.map((c) => (
            <li key={c.why}>
              <b>{c.why.charAt(0).toUpperCase() + c.why.slice(1)}.</b> {c.tells}
            </li>
          ))}
        </ol>
      )}
      {!verdict.ok && step.bench && (
        <Link href={`/node/${slug}${step.bench.path}`} className="small">
          {step.bench.words}
        </Link>
      )}
    </div>
  )
}

/** The allowed span, or what has to be seen. */
function Expected({
  step: { expect },
  shown,
  words,
}: {
  step: BringUpStep
  shown: number | null
  words: string | null
}) {
  if (expect.kind === 'value') return <SpanDrawing expect={expect} found={shown} />
  return (
    <p className="step-expect">
      Expected: <b>{expect.what}</b>
      {words !== null && <span className="soft"> · {words}</span>}
    </p>
  )
}

function Reckoned({ step: { expect } }: { step: BringUpStep }) {
  if (expect.kind !== 'value' || !expect.working) return null
  return (
    <details>
      <summary>How it was reckoned</summary>
      <WorkingSteps working={expect.working} />
    </details>
  )
}

interface AgainstBenchProps {
  step: BringUpStep
  found: readonly Found[]
  here: number | null
}

/** The place against the bench. */
function AgainstBench({ step, found, here }: AgainstBenchProps) {
  if (step.key !== 'strength:site') return null
  const bench = found.find((f) => f.place === 'strength:bench')?.value ?? null
  if (bench === null) return <p className="small soft">The bench was not measured: there is nothing to compare with.</p>
  const weaker = here === null ? null : bench - here
  return (
    <p>
      On the bench it was {meterWords('dBm', bench)}
      {weaker !== null && `; here it is ${Math.abs(weaker)} dB ${weaker >= 0 ? 'weaker' : 'stronger'}`}.
    </p>
  )
}

function LastFound({ last }: { last: Found }) {
  return (
    <p className="small soft">
      Last: {last.ok ? 'as it should be' : 'not as it should be'}, {last.who || 'nobody named'}, {dayAndTime(last.at)}
      {last.remark && ` · ${last.remark}`}
    </p>
  )
}

function verdictName(verdict: Verdict | null): string {
  if (verdict === null) return 'none'
  return verdict.ok ? 'ok' : 'wrong'
}

function verdictOf(step: BringUpStep, value: number | null, last: Found | undefined): Verdict | null {
  if (step.expect.kind === 'value') {
    const judged = value ?? last?.value ?? null
    return judged === null ? null : judge(step, judged)
  }
  if (!last) return null
  return last.ok
    ? { ok: true, side: 'within', words: 'As it should be.', causes: [] }
    : { ok: false, side: 'low', words: 'Not as it should be.', causes: step.causes }
}
