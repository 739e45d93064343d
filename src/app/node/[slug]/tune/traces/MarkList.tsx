'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { type Mark, markSchema } from '@/core/trace/trace'

/** What was true when: each span by its seconds and its word. */
export function MarkList({ marks, lastS, onChange }: { marks: Mark[]; lastS: number; onChange: (m: Mark[]) => void }) {
  const [from, setFrom] = useState('')
  const [to, setTo] = useState('')
  const [word, setWord] = useState(marks[0]?.word ?? 'somebody')
  const [problem, setProblem] = useState('')
  const add = () => {
    const parsed = markSchema.safeParse({ from: Number(from || NaN), to: Math.min(Number(to || NaN), lastS), word })
    if (!parsed.success) return setProblem('From and to in seconds, to after from, and a word.')
    setProblem('')
    setFrom('')
    setTo('')
    onChange([...marks, parsed.data].sort((a, b) => a.from - b.from))
  }
  return (
    <div>
      <p className="small soft mb-1">
        Marks: what was true when. “unsure” is left out of the reckoning.{marks.length === 0 && ' None yet.'}
      </p>
      <ul className="plain small">
        {marks.map((m, i) => (
          <li key={i}>
            {m.word}, {m.from} to {m.to} s{' '}
            <Button
              variant="bare"
              aria-label={`remove mark ${i + 1}`}
              onClick={() => onChange(marks.filter((_, k) => k !== i))}
            >
              remove
            </Button>
          </li>
        ))}
      </ul>
      <Form
        className="d-flex gap-2 align-items-end flex-wrap"
        onSubmit={(e) => {
          e.preventDefault()
          add()
        }}
      >
        <Field id="mark-from" label="from, s" width={80} value={from} onChange={setFrom} />
        <Field id="mark-to" label="to, s" width={80} value={to} onChange={setTo} />
        <Field id="mark-word" label="word" width={120} value={word} onChange={setWord} />
        <Button type="submit" variant="quiet">
          Add the mark
        </Button>
      </Form>
      {problem && (
        <div className="small" role="alert">
          {problem}
        </div>
      )}
    </div>
  )
}

export function Field(props: {
  id: string
  label: string
  width: number
  value: string
  onChange: (v: string) => void
}) {
  return (
    <div style={{ width: props.width }}>
      <Form.Label htmlFor={props.id} className="small mb-0">
        {props.label}
      </Form.Label>
      <Form.Control
        id={props.id}
        size="sm"
        value={props.value}
        autoComplete="off"
        onChange={(e) => props.onChange(e.target.value)}
      />
    </div>
  )
}
