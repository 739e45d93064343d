'use client'
import Link from 'next/link'
import { useCallback, useEffect, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'

const boardsSchema = z.object({
  boards: z.array(
    z.object({
      hardware: z.string(),
      chip: z.string(),
      node_id: z.string().nullable(),
      image: z.string().nullable(),
      image_version: z.string().nullable(),
      address: z.string().nullable(),
      remark: z.string(),
      seen_at: z.string(),
    }),
  ),
})
type Board = z.infer<typeof boardsSchema>['boards'][number]

/** `24:a1:60:0b:7c:3e`, as access points write it. */
const written = (hardware: string): string => hardware.replace(/..(?=.)/g, '$&:')

/** Boards that have been at the cable: who carries what, and the spare ones. Nobody types a hardware address. */
export function Boards() {
  const [boards, setBoards] = useState<Board[] | null>(null)
  const [asked, setAsked] = useState(0)
  const again = useCallback(() => setAsked((n) => n + 1), [])
  useEffect(() => {
    let live = true
    void ask('/api/boards', boardsSchema).then((answer) => {
      if (live && answer.kind === 'ok') setBoards(answer.value.boards)
    })
    return () => {
      live = false
    }
  }, [asked])
  const post = async (body: object) => {
    const answer = await ask('/api/boards', z.object({}), body)
    if (answer.kind !== 'ok') say(answer.error, 'refused')
    again()
  }
  return (
    <section aria-label="boards">
      <h2>Boards</h2>
      <p className="small">
        A board comes in here when it is written or read at the cable (Program, Write the board): its hardware address
        is read, never typed. <Link href="/labels">Labels to print</Link>
      </p>
      {boards?.length === 0 && <p className="soft">None has been at the cable yet.</p>}
      {boards && boards.length > 0 && (
        <table className="table stacked">
          <thead>
            <tr>
              <th scope="col">hardware address</th>
              <th scope="col">node</th>
              <th scope="col">chip</th>
              <th scope="col">interpreter</th>
              <th scope="col">lease</th>
              <th scope="col">remark</th>
              <th scope="col" />
            </tr>
          </thead>
          <tbody>
            {boards.map((b) => (
              <BoardRow key={b.hardware} board={b} onPost={post} />
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}

function BoardRow({ board: b, onPost }: { board: Board; onPost: (body: object) => Promise<void> }) {
  const node = useLive((s) => (b.node_id === null ? undefined : s.nodes[b.node_id]))
  const [remark, setRemark] = useState(b.remark)
  return (
    <tr data-board={b.hardware}>
      <td>
        <code>{written(b.hardware)}</code>
      </td>
      <td>
        {node ? (
          <>
            <Link href={`/node/${node.design.slug}`}>{node.design.name}</Link>
            <div className="small soft">
              {node.live.running ? `revision ${node.live.running.revision}` : 'not heard yet'}
            </div>
          </>
        ) : (
          'spare'
        )}
      </td>
      <td>{b.chip}</td>
      <td>
        {b.image_version ?? ''} {b.image !== null && <span className="small soft">{b.image.slice(0, 12)}…</span>}
      </td>
      <td>{b.address ?? '–'}</td>
      <td>
        <Form.Control
          aria-label={`remark to ${b.hardware}`}
          value={remark}
          maxLength={200}
          onChange={(e) => setRemark(e.target.value)}
          onBlur={() => remark !== b.remark && void onPost({ hardware: b.hardware, remark })}
        />
      </td>
      <td>
        <Button variant="quiet" onClick={() => void onPost({ hardware: b.hardware, forget: true })}>
          Forget
        </Button>
      </td>
    </tr>
  )
}
