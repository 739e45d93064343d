'use client'
import { useEffect, useState } from 'react'
import { Modal, Table } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '../live/api'

const history = z.object({
  edits: z.array(z.object({ seq: z.number(), words: z.string(), author: z.string(), at: z.string() })),
  log: z.array(z.object({ at: z.string(), who: z.string(), what: z.string() })),
  revisions: z.array(
    z.object({
      revision: z.number(),
      hash: z.string(),
      state: z.string(),
      answer: z.string().nullable(),
      created_at: z.string(),
    }),
  ),
})

const when = (iso: string) =>
  new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })

/** What was done to a node, newest first: its edits, the files it was sent, and its logbook. */
export function HistorySheet({ nodeId, show, onHide }: { nodeId: string; show: boolean; onHide: () => void }) {
  const [told, setTold] = useState<z.infer<typeof history> | null>(null)
  const [problem, setProblem] = useState('')
  useEffect(() => {
    if (!show) return
    void ask(`/api/nodes/${nodeId}/history`, history).then((answer) => {
      if (answer.kind === 'ok') setTold(answer.value)
      else setProblem(answer.error)
    })
  }, [nodeId, show])
  return (
    <Modal show={show} onHide={onHide} size="lg" scrollable aria-labelledby="history-title">
      <Modal.Body tabIndex={0}>
        <h2 id="history-title">History</h2>
        {problem && <p role="alert">{problem}</p>}
        {told && told.revisions.length > 0 && (
          <Table size="sm">
            <thead>
              <tr>
                <th scope="col">revision</th>
                <th scope="col">compiled</th>
                <th scope="col">state</th>
                <th scope="col">hash</th>
              </tr>
            </thead>
            <tbody>
              {told.revisions.map((r) => (
                <tr key={r.revision}>
                  <td>{r.revision}</td>
                  <td>{when(r.created_at)}</td>
                  <td>
                    {r.state}
                    {r.answer && `: ${r.answer}`}
                  </td>
                  <td className="mono small">{r.hash.slice(0, 12)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
        {told && (
          <Table size="sm">
            <thead>
              <tr>
                <th scope="col">no.</th>
                <th scope="col">edit</th>
                <th scope="col">by</th>
                <th scope="col">when</th>
              </tr>
            </thead>
            <tbody>
              {told.edits.map((e) => (
                <tr key={e.seq}>
                  <td>{e.seq}</td>
                  <td>{e.words}</td>
                  <td>{e.author || '–'}</td>
                  <td>{when(e.at)}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
        {told && told.log.length > 0 && (
          <>
            <h3>Logbook</h3>
            <Table size="sm">
              <thead>
                <tr>
                  <th scope="col">when</th>
                  <th scope="col">by</th>
                  <th scope="col">what</th>
                </tr>
              </thead>
              <tbody>
                {told.log.map((l, i) => (
                  <tr key={i}>
                    <td>{when(l.at)}</td>
                    <td>{l.who || '–'}</td>
                    <td>{l.what}</td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </>
        )}
        {told?.edits.length === 0 && <p className="soft">No edits yet.</p>}
      </Modal.Body>
    </Modal>
  )
}
