'use client'
import { useMemo, useState } from 'react'
import { Button } from 'react-bootstrap'
import { trialDays } from '@/core/bringup/afterwards'
import { bringUpPlan } from '@/core/bringup/bringUpPlan'
import { STAGES } from '@/core/bringup/step'
import { meterWords } from '@/core/bringup/verdict'
import { Ferrule } from '@/ui/thread/Ferrule'
import type { NodeView } from '@/ui/live/useNode'
import { Fact } from '@/ui/shell/Fact'
import { Bench } from '../Bench'
import { SaidOnCable } from './SaidOnCable'
import { StageList } from './StageList'
import { StepView } from './StepView'
import { TrialCard } from './TrialCard'
import { useFound } from './useFound'

export function BringUp() {
  return <Bench name="Bring-up">{(view) => <BringUpOf key={view.node.id} view={view} />}</Bench>
}

/** Twelve stages, one step at a time: the first that is open, or the one that was chosen. */
function BringUpOf({ view }: { view: NodeView }) {
  const { node, board, catalog } = view
  const { design } = node
  const steps = useMemo(() => bringUpPlan(design, board, catalog), [design, board, catalog])
  const { state, refresh } = useFound(node.id)
  const [chosen, setChosen] = useState<string | null>(null)
  const found = state?.found ?? []
  const done = new Set(found.filter((f) => f.ok).map((f) => f.place))
  const wrong = steps.filter((s) => found.some((f) => f.place === s.key && !f.ok)).length
  const firstOpen = steps.find((s) => !done.has(s.key))
  const step = steps.find((s) => s.key === chosen) ?? (state ? (firstOpen ?? steps.at(-1)) : undefined)
  const index = step ? steps.indexOf(step) : -1
  const signal = step?.signalId ? design.signals[step.signalId] : undefined
  const doneHere = steps.filter((s) => done.has(s.key)).length
  return (
    <>
      <div className="title">
        <h1>Bring-up</h1>
        <Fact name="stage" value={step ? `${step.stage} of ${STAGES.length}` : '–'} />
        <Fact name="as they should be" value={`${doneHere} of ${steps.length}`} />
        <Fact name="not so" value={wrong === 0 ? 'none' : String(wrong)} />
        <Button variant="quiet" className="bringup-print" onClick={() => window.print()}>
          Print the list
        </Button>
      </div>
      <div className="place bringup">
        <aside className="stages-column">
          <StageList
            steps={steps}
            done={done}
            here={step?.stage ?? null}
            onStage={(stage) => {
              const own = steps.filter((s) => s.stage === stage)
              setChosen((own.find((s) => !done.has(s.key)) ?? own[0])?.key ?? null)
            }}
          />
        </aside>
        <div className="work">
          {!state && <p>…</p>}
          {step && (
            <>
              <p className="small soft mb-1">
                {STAGES[step.stage - 1]} · step {index + 1} of {steps.length} {signal && <Ferrule signal={signal} />}
              </p>
              <StepView key={step.key} view={view} step={step} found={found} onKept={refresh} />
              {step.key === 'trial' && (
                <TrialCard
                  nodeId={node.id}
                  trial={state?.trial ?? null}
                  proposed={trialDays(design, catalog)}
                  onKept={refresh}
                />
              )}
              <div className="fields step-on">
                <Button variant="quiet" disabled={index <= 0} onClick={() => setChosen(steps[index - 1]?.key ?? null)}>
                  ← back
                </Button>
                <Button
                  variant="quiet"
                  disabled={index >= steps.length - 1}
                  onClick={() => setChosen(steps[index + 1]?.key ?? null)}
                >
                  on →
                </Button>
              </div>
            </>
          )}
        </div>
        <aside className="margin" aria-label="margin">
          <SaidOnCable board={board} />
        </aside>
      </div>
      <table className="bringup-paper">
        <caption>
          {design.name}: bring-up, {board.name}
        </caption>
        <thead>
          <tr>
            <th scope="col">stage</th>
            <th scope="col">step</th>
            <th scope="col">expected</th>
            <th scope="col">found</th>
          </tr>
        </thead>
        <tbody>
          {steps.map((s) => {
            const f = found.find((x) => x.place === s.key)
            return (
              <tr key={s.key}>
                <td>{s.stage}</td>
                <td>
                  <b>{s.title}.</b> {s.how}
                  {s.caution && (
                    <div>
                      <b>{s.caution.title}.</b> {s.caution.text}
                    </div>
                  )}
                </td>
                <td>
                  {s.expect.kind === 'value'
                    ? `${meterWords(s.expect.unit, s.expect.min)} to ${meterWords(s.expect.unit, s.expect.max)}`
                    : s.expect.what}
                </td>
                <td>{f ? `${f.value ?? ''} ${f.unit} ${f.ok ? '✓' : 'not so'} ${f.who}` : ''}</td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </>
  )
}
