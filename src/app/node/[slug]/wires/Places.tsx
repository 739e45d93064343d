'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { type Found, foundSchema, inOrder } from '@/core/model/design'
import { railsOf } from '@/core/power/rails'
import { edit } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

const EMPTY: Found = { terminal: '', supply: '', common: '', signal: '', note: '' }

/** How far away parts are, and how old ones were connected where they were found; what feeds the board. */
export function Places({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    board,
    catalog,
  } = view
  const [recording, setRecording] = useState<string | null>(null)
  const recorded = recording === null ? undefined : design.parts[recording]
  const sources = railsOf(design, board, catalog).filter((r) => r.partId !== null && !r.ac)
  return (
    <section aria-label="cables">
      <h2 className="mt-4">Cables and old connections</h2>
      <p className="soft small">
        Lengths decide voltage drop, pulls and protection. What was found in an old panel is written down, and its
        labels printed, before anything is unscrewed.
      </p>
      <Form.Group controlId="board-feed" className="mb-2" style={{ maxWidth: 420 }}>
        <Form.Label>the board is fed by</Form.Label>
        <Form.Select
          value={design.boardFeed ?? ''}
          onChange={(e) => edit(id, { kind: 'feed-board', rail: e.target.value || null })}
        >
          <option value="">USB</option>
          {sources.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}, {r.min} to {r.max} V
            </option>
          ))}
        </Form.Select>
      </Form.Group>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">part</th>
            <th scope="col">cable, m</th>
            <th scope="col">outdoors</th>
            <th scope="col">found at</th>
            <th scope="col">
              <span className="visually-hidden">record</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {inOrder(design.parts).map(({ id: partId, value: part }) => (
            <tr key={partId} data-place={partId}>
              <td>
                <b>{part.label}</b>
              </td>
              <td>
                <Length
                  key={part.cableM}
                  value={part.cableM}
                  label={`cable of ${part.label}, m`}
                  onSet={(cableM) => edit(id, { kind: 'place-part', partId, set: { cableM } })}
                />
              </td>
              <td>
                <Form.Check
                  aria-label={`${part.label} is outdoors`}
                  checked={part.outdoor}
                  onChange={(e) => edit(id, { kind: 'place-part', partId, set: { outdoor: e.target.checked } })}
                />
              </td>
              <td className="small">
                {part.found ? (
                  `${part.found.terminal}: supply ${part.found.supply || '–'}, common ${part.found.common || '–'}, signal ${part.found.signal || '–'}${part.found.note ? `; ${part.found.note}` : ''}`
                ) : (
                  <span className="soft">new</span>
                )}
              </td>
              <td className="text-end">
                <Button variant="quiet" onClick={() => setRecording(recording === partId ? null : partId)}>
                  {part.found ? 'Change' : 'It was connected before'}
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {recording !== null && recorded && (
        <FoundForm
          key={recording}
          label={recorded.label}
          found={recorded.found ?? EMPTY}
          onDone={(found) => {
            if (found !== undefined) edit(id, { kind: 'record-found', partId: recording, found })
            setRecording(null)
          }}
        />
      )}
    </section>
  )
}

/** A length that is taken over when the field is left. */
function Length({ value, label, onSet }: { value: number; label: string; onSet: (m: number) => void }) {
  const [text, setText] = useState(String(value))
  const set = () => {
    const m = Number(text.replace(',', '.'))
    if (m === value) return
    if (m >= 0.01 && m <= 100) onSet(m)
    else setText(String(value))
  }
  return (
    <Form.Control
      className="table-cell-control"
      style={{ width: 84 }}
      inputMode="decimal"
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={set}
      onKeyDown={(e) => {
        if (e.key === 'Enter') set()
      }}
    />
  )
}

const FIELDS: [keyof Found, string][] = [
  ['terminal', 'zone or terminal block'],
  ['supply', 'supply on'],
  ['common', 'common on'],
  ['signal', 'signal on'],
  ['note', 'note'],
]

/** Old connections: as printed on the old panel. */
function FoundForm({
  label,
  found,
  onDone,
}: {
  label: string
  found: Found
  onDone: (found: Found | null | undefined) => void
}) {
  const [value, setValue] = useState(found)
  const [problem, setProblem] = useState('')
  return (
    <Form
      className="fields"
      aria-label={`how ${label} was connected`}
      onSubmit={(e) => {
        e.preventDefault()
        const parsed = foundSchema.safeParse(value)
        if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? 'not as expected')
        if (value.terminal.trim() === '') return setProblem('Write what stands at the terminal, for instance Z3.')
        onDone(parsed.data)
      }}
    >
      {FIELDS.map(([key, words]) => (
        <Form.Group key={key} controlId={`found-${key}`}>
          <Form.Label>{words}</Form.Label>
          <Form.Control
            value={value[key]}
            onChange={(e) => setValue({ ...value, [key]: e.target.value })}
            autoComplete="off"
          />
        </Form.Group>
      ))}
      <Button type="submit" variant="primary">
        Write it down
      </Button>
      <Button variant="quiet" onClick={() => onDone(null)}>
        It is new
      </Button>
      <Button variant="quiet" onClick={() => onDone(undefined)}>
        Leave it
      </Button>
      {problem && (
        <div role="alert" className="small">
          {problem}
        </div>
      )}
    </Form>
  )
}
