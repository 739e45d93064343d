'use client'
import { useCallback, useEffect, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say } from '@/ui/live/store'
import { CABLE_CHIPS, CABLE_TROUBLES, type CableDeed } from '@/wire/deeds'

const stateSchema = z.object({ chip: z.enum(CABLE_CHIPS), trouble: z.enum(CABLE_TROUBLES) })
type State = z.infer<typeof stateSchema>
const WORDS: Record<State['trouble'], string> = {
  none: 'nothing',
  'charging only': 'a cable that only charges',
  crossed: 'data lines not crossed',
  'strap held': 'a part holds the loader’s pin low',
  '12 high': 'a part holds 12 high',
  'weak supply': 'a supply too weak for the radio',
}
const AGAIN_MS = 700

/** The board at a cable that the Program bench writes: which class is plugged in, and what is the matter with it. */
export function CableStandIn() {
  const [state, setState] = useState<State | null>(null)
  const [asked, setAsked] = useState(0)
  useEffect(() => {
    let live = true
    void ask('/api/standin/cable', stateSchema).then((a) => {
      if (live && a.kind === 'ok') setState(a.value)
    })
    return () => {
      live = false
    }
  }, [asked])
  const tell = useCallback(async (cable: CableDeed, done: string) => {
    const answer = await ask('/api/standin', z.object({}), { cable })
    say(answer.kind === 'ok' ? done : answer.error, answer.kind === 'ok' ? 'told' : 'refused')
    setTimeout(() => setAsked((n) => n + 1), AGAIN_MS)
  }, [])
  if (!state) return null
  return (
    <section aria-label="board at the cable" className="pt-4" data-cable={state.trouble}>
      <h2>The board at the cable</h2>
      <p className="small soft">
        An empty board to write: Program, Write the board. It keeps what was written, and comes to the broker as the
        node whose files it got.
      </p>
      <div className="fields">
        <div>
          <Form.Label htmlFor="d-chip">plugged in</Form.Label>
          <Form.Select
            id="d-chip"
            style={{ width: 150 }}
            value={state.chip}
            onChange={(e) => {
              const plugIn = z.enum(CABLE_CHIPS).parse(e.target.value)
              void tell({ plugIn }, `A board of the ${plugIn} is plugged in.`)
            }}
          >
            {CABLE_CHIPS.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </Form.Select>
        </div>
        <div>
          <Form.Label htmlFor="d-matter">the matter with it</Form.Label>
          <Form.Select
            id="d-matter"
            style={{ width: 300 }}
            value={state.trouble}
            onChange={(e) => {
              const trouble = z.enum(CABLE_TROUBLES).parse(e.target.value)
              void tell({ trouble }, `At the cable: ${WORDS[trouble]}.`)
            }}
          >
            {CABLE_TROUBLES.map((t) => (
              <option key={t} value={t}>
                {WORDS[t]}
              </option>
            ))}
          </Form.Select>
        </div>
        <Button variant="quiet" onClick={() => void tell({ pull: true }, 'The cable was pulled and plugged in again.')}>
          Pull the cable
        </Button>
      </div>
    </section>
  )
}
