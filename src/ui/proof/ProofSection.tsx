'use client'
import { useEffect, useState } from 'react'
import { Button, Form, ProgressBar } from 'react-bootstrap'
import { z } from 'zod'
import { changedLines, counted, type Line } from '@/core/proof/line'
import { leftoverTopics } from '@/core/proof/leftovers'
import { type Proof, type ProofGoing, type ProofWish, proofsSchema, type ProofSchedule } from '@/wire/proof'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { ask } from '@/ui/live/api'
import { dayAndTime } from '@/ui/live/dayAndTime'
import { say, useLive } from '@/ui/live/store'

interface ProofSectionProps {
  /** Null: every node of the shop. */
  node: string | null
}

/** The contract test: begun here, watched, and what it found line by line beside what the run before found. */
export function ProofSection({ node }: ProofSectionProps) {
  const live = useLive((s) => s.proof)
  const [all, setAll] = useState<z.infer<typeof proofsSchema> | null>(null)
  const [round, setRound] = useState(0)
  const [wish, setWish] = useState<Wish>({ listenS: 60, commands: false, act: false, hands: false, away: false })
  const look = () => setRound((n) => n + 1)
  useEffect(() => {
    void ask(`/api/proofs${node === null ? '' : `?node=${node}`}`, proofsSchema).then(
      (a) => a.kind === 'ok' && setAll(a.value),
    )
  }, [node, live.ended, round])
  if (!all) return null
  const going = live.going ?? (live.ended === 0 ? all.going : null)
  const [last, before] = all.proofs
  return (
    <section aria-label="proof" className="mt-4 on-screen">
      <h2>Proof</h2>
      <p className="small soft">
        Holds what is heard on the broker against what the descriptions promise, a verdict for every line. What was not
        tried is never called passed.
      </p>
      {going ? <Going going={going} /> : <Begin node={node} wish={wish} onWish={setWish} />}
      {all.trouble !== null && !going && (
        <p role="alert" data-proof-trouble>
          {all.trouble}
        </p>
      )}
      {last ? (
        <Result proof={last} before={before ?? null} node={node} onDone={look} />
      ) : (
        !going && <p className="small">No run yet: nothing is known of what the broker really carries.</p>
      )}
      {node === null && <Schedule schedule={all.schedule} onDone={look} />}
    </section>
  )
}

type Wish = Omit<ProofWish, 'node'>

/** What a run may do beside listening. */
const DEEDS = [
  ['commands', 'send commands that change nothing'],
  ['act', 'switch outputs, each after asking'],
  ['hands', 'cut its link and start it anew'],
  ['away', 'take parts off: each has to say that it does not know'],
] as const

interface BeginProps {
  node: string | null
  wish: Wish
  onWish: (wish: Wish) => void
}

function Begin({ node, wish, onWish }: BeginProps) {
  const begin = async () => {
    const a = await ask('/api/proofs', z.object({}), { node, ...wish })
    if (a.kind !== 'ok') say(a.error, 'refused')
  }
  return (
    <div className="d-flex gap-3 align-items-end flex-wrap mb-2">
      <EditField
        id="proof-listen"
        label="listen for"
        unit="s"
        width={110}
        value={wish.listenS}
        schema={numberIn(1, 7200, 's')}
        onSave={(s) => onWish({ ...wish, listenS: s })}
      />
      {DEEDS.map(([deed, label]) => (
        <Form.Check
          key={deed}
          id={`proof-${deed}`}
          label={label}
          checked={wish[deed]}
          onChange={(e) => onWish({ ...wish, [deed]: e.target.checked })}
        />
      ))}
      <Button variant="quiet" onClick={() => void begin()}>
        Prove {node === null ? 'all of it' : 'it'}
      </Button>
    </div>
  )
}

function Going({ going }: { going: ProofGoing }) {
  const { question } = going
  const answer = async (yes: boolean) => {
    const a = await ask('/api/proofs/answer', z.object({}), { n: question?.n ?? 0, yes })
    if (a.kind !== 'ok') say(a.error, 'refused')
  }
  return (
    <div role="status" data-proof="going" className="mb-3">
      <p className="mb-1">
        {going.byClock ? 'By the clock: ' : ''}
        {going.doing}
      </p>
      {going.share !== null && <ProgressBar now={going.share * 100} aria-label={going.doing} />}
      {question && (
        <div className="my-2">
          <p className="mb-1">
            <b>{question.words}</b>
          </p>
          <Button variant="quiet" onClick={() => void answer(true)}>
            Yes
          </Button>{' '}
          <Button variant="quiet" onClick={() => void answer(false)}>
            Leave it out
          </Button>
        </div>
      )}
      <Button variant="bare" className="mt-1" onClick={() => void ask('/api/proofs', z.object({}), {}, 'DELETE')}>
        stop it
      </Button>
    </div>
  )
}

const MARKS: Record<Line['verdict'], string> = { passed: 'passed', failed: 'FAILED', 'not tried': 'not tried' }

interface ResultProps {
  proof: Proof
  before: Proof | null
  node: string | null
  onDone: () => void
}

function Result({ proof, before, node, onDone }: ResultProps) {
  const [shown, setShown] = useState<Line['verdict'] | null>(null)
  const { lines } = proof.report
  const n = counted(lines)
  const changed = before ? changedLines(before.report.lines, lines) : []
  const left = leftoverTopics(lines)
  const clear = async () => {
    const a = await ask('/api/proofs/clear', z.object({}), { node, topics: left })
    say(
      a.kind === 'ok' ? `${left.length} cleared at the broker; prove it again to see.` : a.error,
      a.kind === 'ok' ? 'told' : 'refused',
    )
    onDone()
  }
  const rows = lines.filter((l) => (shown === null ? l.verdict === 'failed' : l.verdict === shown))
  return (
    <div data-proof="result" data-failed={n.failed}>
      <p className="mb-1">
        <b className="proof-sum">{n.failed === 0 ? 'Nothing failed.' : `${n.failed} failed.`}</b> {n.passed} passed,{' '}
        {n['not tried']} not tried; {proof.report.messages} messages in {proof.report.listenedS} s,{' '}
        {dayAndTime(proof.began)}
        {proof.byClock ? ', by the clock' : ''}.
      </p>
      {changed.length > 0 && (
        <p className="small">
          Since the run before:{' '}
          {changed.slice(0, 6).map((c, i) => (
            <span key={c.line.topic + c.line.check}>
              {i > 0 && '; '}
              {c.line.name} {c.line.check} {c.was === null ? 'is new' : `was ${c.was}`} and {c.line.verdict}
            </span>
          ))}
          .
        </p>
      )}
      <div className="d-flex gap-3 flex-wrap mb-1">
        {(['failed', 'passed', 'not tried'] as const).map((v) => (
          <Button key={v} variant="bare" aria-pressed={(shown ?? 'failed') === v} onClick={() => setShown(v)}>
            {v} {n[v]}
          </Button>
        ))}
        <a href={`/api/proofs/${proof.id}?as=csv`}>CSV</a>
        <a href={`/api/proofs/${proof.id}`}>JSON</a>
        {left.length > 0 && (
          <Button variant="quiet" onClick={() => void clear()}>
            Clear {left.length} left over
          </Button>
        )}
      </div>
      {rows.length > 0 && (
        <table className="table stacked proof-lines">
          <thead>
            <tr>
              <th scope="col">verdict</th>
              <th scope="col">what</th>
              <th scope="col">where</th>
              <th scope="col">found</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((l) => (
              <tr key={l.topic + l.check} data-verdict={l.verdict} data-check={l.check}>
                <td className="text-nowrap">{MARKS[l.verdict]}</td>
                <td className="text-nowrap">{l.check}</td>
                <td className="small">
                  {l.thing}, {l.name}
                  <span className="mono d-block">{l.topic}</span>
                </td>
                <td>{l.words}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  )
}

function Schedule({ schedule, onDone }: { schedule: ProofSchedule | null; onDone: () => void }) {
  const put = async (next: ProofSchedule | null) => {
    const a = await ask('/api/proofs/schedule', z.object({}), { schedule: next })
    if (a.kind !== 'ok') say(a.error, 'refused')
    onDone()
  }
  const { everyH = 24, listenS = 1300 } = schedule ?? {}
  return (
    <div className="d-flex gap-3 align-items-end flex-wrap mt-3">
      <Form.Check
        id="proof-by-clock"
        label="also by the clock: it only listens then"
        checked={schedule !== null}
        onChange={(e) => void put(e.target.checked ? { everyH, listenS } : null)}
      />
      {schedule && (
        <>
          <EditField
            id="proof-every"
            label="every"
            unit="h"
            width={100}
            value={everyH}
            schema={numberIn(1, 720, 'h')}
            onSave={(v) => void put({ everyH: v, listenS })}
          />
          <EditField
            id="proof-clock-listen"
            label="listen for"
            unit="s"
            width={110}
            value={listenS}
            schema={numberIn(10, 7200, 's')}
            onSave={(v) => void put({ everyH, listenS: v })}
          />
        </>
      )}
    </div>
  )
}
