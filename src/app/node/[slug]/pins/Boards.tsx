'use client'
import { Button } from 'react-bootstrap'
import { edit, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { usePlanning } from '@/ui/plan/usePlanning'

/**
 * Every board for this design: those that carry it by cost, with what stays free and what gets awkward; the others with
 * why not.
 */
export function Boards({ view }: { view: NodeView }) {
  const {
    node: { id, design },
  } = view
  const { result, busy, words, stop } = usePlanning('boards', design)
  return (
    <section aria-label="boards for this design" data-boards={busy ? 'busy' : 'done'}>
      {busy && (
        <p>
          Planning it on every board … {words}{' '}
          <Button variant="quiet" onClick={stop}>
            Stop
          </Button>
        </p>
      )}
      {result && (
        <table className="table">
          <thead>
            <tr>
              <th scope="col">board</th>
              <th scope="col">cost</th>
              <th scope="col">stays free</th>
              <th scope="col">what gets awkward</th>
              <th scope="col">
                <span className="visually-hidden">choose</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {result.map((r) => {
              const unable = r.proven ? 'cannot' : 'not known'
              return (
                <tr key={r.board} data-board={r.board}>
                  <td>
                    <b>{r.name}</b>
                  </td>
                  <td>{r.carries ? `${r.proven ? '' : 'at most '}${r.cost}` : unable}</td>
                  <td>{r.carries ? `${r.free} pins, ${r.freeAnalog} analog` : '–'}</td>
                  <td className="small">
                    {r.awkward.slice(0, 3).join('; ') || 'nothing'}
                    {r.awkward.length > 3 ? `; and ${r.awkward.length - 3} more` : ''}
                  </td>
                  <td className="text-end">
                    {r.board === design.board.id ? (
                      <span className="soft small">this one</span>
                    ) : (
                      r.carries && (
                        <Button
                          variant="quiet"
                          onClick={() => {
                            if (edit(id, { kind: 'choose-board', board: r.board }))
                              say(`${r.name} chosen; Ctrl-Z takes it back.`)
                          }}
                        >
                          Take it
                        </Button>
                      )
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      )}
    </section>
  )
}
