'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { Finding } from '../../core/checks/finding'
import type { Design } from '../../core/model/design'
import { ask } from '../live/api'
import { author, editAll, rememberAuthor, say } from '../live/store'
import { Ferrule } from '../thread/Ferrule'
import { benchName } from '../shell/places'
import { countWords } from './countWords'
import { aboutWords, together } from './together'
import { CalculationSheet } from './CalculationSheet'
import { SeverityMark } from './SeverityMark'
import { WorkingSteps } from './WorkingSteps'

interface MarginProps {
  nodeId: string
  design: Design
  findings: Finding[]
  /** Every finding of the node, where the list above is only a share of them. */
  all?: Finding[]
  /** Thread in focus: its findings stand first, the others step back. */
  focus?: string | null
}

/** Where findings are seen best: `Wires (2), Parts (1)`. */
function benchWords(findings: readonly Finding[]): string {
  const benches = [...new Set(findings.map((f) => f.bench))]
  return benches.map((b) => `${benchName(b)} (${findings.filter((f) => f.bench === b).length})`).join(', ')
}

/** The list of findings beside what is on view, each with its working and its remedies. */
export function Margin({ nodeId, design, findings, all = findings, focus = null }: MarginProps) {
  const ordered =
    focus === null
      ? findings
      : [...findings].sort((a, b) => Number(b.signalId === focus) - Number(a.signalId === focus))
  return (
    <section aria-label="findings">
      <h2>findings · {countWords(findings)}</h2>
      {together(ordered).map(([f, ...alike]) => (
        <FindingItem
          key={f.key}
          nodeId={nodeId}
          design={design}
          finding={f}
          alike={alike}
          dim={focus !== null && f.signalId !== focus}
        />
      ))}
      {findings.length === 0 && (
        <p className="small soft pt-3">
          {all.length === 0
            ? 'Nothing stands against this design as far as the rules know.'
            : `Nothing here. Elsewhere ${countWords(all)} ${all.length === 1 ? 'stands' : 'stand'}: ${benchWords(all)}.`}
        </p>
      )}
    </section>
  )
}

function FindingItem({
  nodeId,
  design,
  finding,
  alike,
  dim,
}: {
  nodeId: string
  design: Design
  finding: Finding
  alike: Finding[]
  dim: boolean
}) {
  const [open, setOpen] = useState(false)
  const [sum, setSum] = useState(false)
  const signal = finding.signalId === null ? undefined : design.signals[finding.signalId]
  return (
    <article className={dim ? 'finding dim' : 'finding'} data-rule={finding.rule}>
      <div className="head">
        <SeverityMark severity={finding.severity} people={finding.caution?.privacy} />
        {finding.caution?.privacy ? 'PEOPLE' : finding.severity.toUpperCase()}
        {signal && <Ferrule signal={signal} />}
      </div>
      <p>{alike.length > 0 ? aboutWords(design, [finding, ...alike]) : finding.sentence}</p>
      {finding.caution && (
        <div className="caution">
          <strong>{finding.caution.title}</strong>
          {finding.caution.text} Local codes and licensed practice come first.
        </div>
      )}
      {open && finding.working && <WorkingSteps working={finding.working} />}
      {finding.remedies.map((r) => (
        <Button
          key={r.label}
          onClick={() => {
            if (editAll(nodeId, r.edits)) say(`${r.label}: done. Ctrl-Z takes it back.`)
          }}
        >
          {r.label}
        </Button>
      ))}
      {finding.working && (
        <Button variant="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          Working
        </Button>
      )}
      {finding.calculation && (
        <Button variant="quiet" onClick={() => setSum(true)}>
          Work it out
        </Button>
      )}
      {finding.calculation && sum && (
        <CalculationSheet
          nodeId={nodeId}
          design={design}
          sum={finding.calculation}
          subject={design.parts[finding.partId ?? '']?.label ?? ''}
          onHide={() => setSum(false)}
        />
      )}
      {finding.caution && <Acknowledge nodeId={nodeId} findings={[finding, ...alike].map((f) => f.key)} />}
    </article>
  )
}

const nameSchema = z
  .string()
  .trim()
  .min(2, 'Write the name of the person who has read this.')
  .max(60, 'At most 60 characters.')

/** A caution goes away only when a person puts their name to it; the logbook keeps name and date. */
function Acknowledge({ nodeId, findings }: { nodeId: string; findings: string[] }) {
  const [finding = ''] = findings
  const [name, setName] = useState(() => author())
  const [problem, setProblem] = useState('')
  const send = async () => {
    const parsed = nameSchema.safeParse(name)
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? '')
    rememberAuthor(parsed.data)
    const answer = await ask(`/api/nodes/${nodeId}/acknowledgements`, z.object({}), { findings, name: parsed.data })
    if (answer.kind === 'ok') say('Kept in the logbook with name and date.')
    else setProblem(answer.kind === 'away' ? 'The server cannot be reached; nothing was kept.' : answer.error)
  }
  return (
    <Form
      onSubmit={(e) => {
        e.preventDefault()
        void send()
      }}
    >
      <Form.Label htmlFor={`name-${finding}`}>read and understood by</Form.Label>
      <div className="d-flex gap-2">
        <Form.Control
          id={`name-${finding}`}
          value={name}
          onChange={(e) => setName(e.target.value)}
          isInvalid={problem !== ''}
          autoComplete="off"
        />
        <Button type="submit" className="m-0">
          Acknowledge
        </Button>
      </div>
      {problem && (
        <div className="small" role="alert">
          {problem}
        </div>
      )}
    </Form>
  )
}
