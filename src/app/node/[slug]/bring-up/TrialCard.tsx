'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { dayAndTime } from '@/ui/live/dayAndTime'
import { author, rememberAuthor, say } from '@/ui/live/store'
import type { Trial } from './useFound'

/** A trial: started here, watched meanwhile, and what is said of it so far. */
export function TrialCard({
  nodeId,
  trial,
  proposed,
  onKept,
}: {
  nodeId: string
  trial: Trial | null
  proposed: number
  onKept: () => void
}) {
  const [days, setDays] = useState(String(proposed))
  const [who, setWho] = useState(author())
  const running = trial !== null && trial.endedAt === null
  const post = async (body: object, done: string) => {
    rememberAuthor(who.trim())
    const answer = await ask(`/api/nodes/${nodeId}/bring-up`, z.looseObject({}), body)
    say(answer.kind === 'ok' ? done : answer.error, answer.kind === 'ok' ? 'told' : 'refused')
    onKept()
  }
  return (
    <section aria-label="trial" data-trial={running ? 'runs' : 'none'}>
      {trial && (
        <>
          <p className={trial.ok ? 'startup-head' : 'startup-head is-wrong'}>
            {running
              ? `Runs since ${dayAndTime(trial.startedAt)}, ${Math.floor(100 * trial.share)} % of ${trial.days} days.`
              : `Ended ${dayAndTime(trial.endedAt ?? '')}.`}
          </p>
          <ul>
            {trial.lines.map((l) => (
              <li key={l.words}>{l.ok ? l.words : <b>{l.words}</b>}</li>
            ))}
          </ul>
        </>
      )}
      <div className="fields">
        {!running && (
          <div>
            <Form.Label htmlFor="t-days">days</Form.Label>
            <Form.Control
              id="t-days"
              inputMode="decimal"
              value={days}
              style={{ width: 90 }}
              onChange={(e) => setDays(e.target.value)}
            />
          </div>
        )}
        <div>
          <Form.Label htmlFor="t-who">who</Form.Label>
          <Form.Control id="t-who" value={who} style={{ width: 130 }} onChange={(e) => setWho(e.target.value)} />
        </div>
        <Button
          disabled={who.trim() === '' || !(Number(days) > 0)}
          onClick={() =>
            void post(
              running ? { endTrial: true, who: who.trim() } : { trial: Number(days), who: who.trim() },
              running ? 'The trial has ended.' : 'The trial has started.',
            )
          }
        >
          {running ? 'End it now' : 'Start the trial'}
        </Button>
      </div>
    </section>
  )
}
