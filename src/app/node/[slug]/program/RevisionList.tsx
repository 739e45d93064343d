'use client'
import { useEffect, useState } from 'react'
import { Button, Table } from 'react-bootstrap'
import { z } from 'zod'
import { changesBetween } from '@/core/documents/changes'
import { designSchema } from '@/core/model/design'
import { type Difference, semanticDiff } from '@/core/nodefile/semanticDiff'
import { nodeFileSchema } from '@/core/nodefile/nodeFile'
import { compile } from '@/core/nodefile/compile'
import { DEFAULT_ROOT } from '@/core/publish/topics'
import { ask } from '@/ui/live/api'
import { dayAndTime } from '@/ui/live/dayAndTime'
import { edit, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useNeighbours } from '@/ui/live/useNeighbours'
import { surroundings, surroundingsDiffer, surroundingsSchema } from '@/core/surroundings/surroundings'
import { useSend } from '../useSend'
import { Meaning } from './DifferenceView'

const listSchema = z.object({
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
const oneSchema = z.object({
  file: z.string(),
  design: designSchema.nullable(),
  surroundings: surroundingsSchema.nullable(),
})

const STATE: Record<string, string> = {
  compiled: 'written into a bundle',
  waiting: 'waits for the node to wake',
  sent: 'sent',
  running: 'ran',
  refused: 'refused by the node',
  returned: 'tried and taken back',
  unanswered: 'not sent or not answered',
}

/** Every file this node was given, and the way back to any of them. */
export function RevisionList({ view }: { view: NodeView }) {
  const { node } = view
  const [list, setList] = useState<z.infer<typeof listSchema>['revisions'] | null>(null)
  const [problem, setProblem] = useState('')
  const [opened, setOpened] = useState<number | null>(null)
  const running = node.live.running?.revision ?? 0
  const { sending } = node.live
  useEffect(() => {
    void ask(`/api/nodes/${node.id}/history`, listSchema).then((a) =>
      a.kind === 'ok' ? setList(a.value.revisions) : setProblem(a.error),
    )
  }, [node.id, running, sending])
  if (problem) return <p role="alert">{problem}</p>
  if (!list) return <p className="pt-3">…</p>
  if (list.length === 0) return <p className="pt-3">No file has been made for this node yet.</p>
  return (
    <Table className="revisions mt-2">
      <thead>
        <tr>
          <th scope="col">revision</th>
          <th scope="col">made</th>
          <th scope="col">what became of it</th>
          <th scope="col">hash</th>
          <th scope="col">
            <span className="visually-hidden">ways back</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {list.map((r) => (
          <RevisionRow
            key={r.revision}
            view={view}
            row={r}
            runs={r.revision === running}
            open={opened === r.revision}
            onOpen={() => setOpened(opened === r.revision ? null : r.revision)}
          />
        ))}
      </tbody>
    </Table>
  )
}

function RevisionRow({
  view,
  row,
  runs,
  open,
  onOpen,
}: {
  view: NodeView
  row: z.infer<typeof listSchema>['revisions'][number]
  runs: boolean
  open: boolean
  onOpen: () => void
}) {
  const { send, ready } = useSend(view)
  const shop = useLive((s) => s.shop)
  const nodes = useNeighbours()
  const { node } = view
  const backToDesign = async () => {
    const answer = await ask(`/api/nodes/${node.id}/revisions/${row.revision}`, oneSchema)
    if (answer.kind !== 'ok' || !answer.value.design)
      return say(
        answer.kind === 'ok'
          ? 'The design of this revision was not kept; its file can still be run again.'
          : answer.error,
        'refused',
      )
    const changes = changesBetween(node.design, answer.value.design)
    // The design comes back; what the shop says around it stays as it is now.
    const then = answer.value.surroundings
    const differs = then ? surroundingsDiffer(then, surroundings(answer.value.design, shop, nodes)) : []
    const around = differs.length > 0 ? ` Otherwise than then: ${differs.join('; ')}.` : ''
    if (changes.length === 0) return say(`The design is as it was then.${around}`)
    if (edit(node.id, { kind: 'revert', of: `back to revision ${row.revision}`, changes }))
      say(`The design is as it was at revision ${row.revision}. Ctrl-Z takes it back; nothing was sent.${around}`)
  }
  return (
    <>
      <tr data-revision={row.revision}>
        <td>
          <b>{row.revision}</b>
          {runs && <>&ensp;runs now</>}
        </td>
        <td className="text-nowrap">{dayAndTime(row.created_at)}</td>
        <td>
          {runs ? 'runs' : (STATE[row.state] ?? row.state)}
          {row.answer !== null && <span className="small">: {row.answer}</span>}
        </td>
        <td className="mono small">{row.hash.slice(0, 12)}</td>
        <td>
          <div className="d-flex gap-3 text-nowrap" style={{ justifyContent: 'flex-end' }}>
            <Button variant="bare" aria-expanded={open} onClick={onOpen}>
              compare
            </Button>
            {!runs && (
              <Button variant="bare" disabled={!ready} onClick={() => void send({ again: row.revision })}>
                run it again
              </Button>
            )}
            <Button variant="bare" onClick={() => void backToDesign()}>
              design as then
            </Button>
          </div>
        </td>
      </tr>
      {open && (
        <tr>
          <td colSpan={5} className="ps-4">
            <Compared view={view} revision={row.revision} />
          </td>
        </tr>
      )}
    </>
  )
}

/** What that file said otherwise than the design does now. */
function Compared({ view, revision }: { view: NodeView; revision: number }) {
  const { node, catalog, around } = view
  const broker = useLive((s) => s.broker)
  const [meaning, setMeaning] = useState<Difference[] | string | null>(null)
  useEffect(() => {
    void ask(`/api/nodes/${node.id}/revisions/${revision}`, oneSchema).then((a) => {
      if (a.kind !== 'ok') return setMeaning(a.error)
      const then = nodeFileSchema.safeParse(JSON.parse(a.value.file))
      const now = compile(node.design, around, catalog, { ...broker, root: DEFAULT_ROOT }, revision)
      if (!then.success) setMeaning('That file is of a form this release does not read.')
      else setMeaning(now.ok ? semanticDiff(then.data, now.compiled.file) : now.reasons.join('; '))
    })
  }, [node.id, node.design, around, catalog, broker, revision])
  if (meaning === null) return <>…</>
  if (typeof meaning === 'string') return <span role="alert">{meaning}</span>
  return meaning.length === 0 ? (
    <>It says what the design says now.</>
  ) : (
    <>
      <span className="small soft">What the design says since then:</span>
      <Meaning view={view} meaning={meaning} />
    </>
  )
}
