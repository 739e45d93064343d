'use client'
import type { ThreadRow } from '@/core/loom/threadRows'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { useMemo, useState } from 'react'
import { Button } from 'react-bootstrap'
import { derive } from '@/core/derive/derive'
import { countWords } from '@/ui/findings/countWords'
import { SeverityMark } from '@/ui/findings/SeverityMark'
import { useBehind } from '@/ui/live/useBehind'
import { GoneWhy } from '@/ui/live/GoneWhy'
import { goneNow, heardWords, nowWords, statusWords } from '@/ui/live/nowWords'
import { type ClientNode, useLive } from '@/ui/live/store'
import { useClock } from '@/ui/live/useClock'
import { Fact } from '@/ui/shell/Fact'
import { Shell } from '@/ui/shell/Shell'
import { useKeys } from '@/ui/keys/useKeys'
import { surroundings } from '@/core/surroundings/surroundings'
import { useNeighbours } from '@/ui/live/useNeighbours'
import { SmallThreads } from '@/ui/thread/ThreadRun'
import { Sending } from './Sending'
import { WishWork } from './begin/WishWork'

/** All nodes of the shop, how far each is woven, and what each says now. */
export function Shop() {
  const { loaded, link, nodes, order, shop, counts, catalog } = useLive()
  const router = useRouter()
  const now = useClock()
  const neighbours = useNeighbours()
  const views = useMemo(
    () =>
      order.flatMap((id) => {
        const node = nodes[id]
        if (!node) return []
        const around = surroundings(node.design, shop, neighbours)
        return [{ node, around, ...derive(node.design, catalog, new Set(node.live.acknowledged), around) }]
      }),
    [nodes, order, catalog, shop, neighbours],
  )
  // What is gone stands first: that is what somebody comes here to see.
  const gone = views.filter((v) => goneNow(v.node.live, now))
  const sorted = [...gone, ...views.filter((v) => !gone.includes(v))]

  const [sending, setSending] = useState(false)
  useKeys({ n: () => router.push('/begin') }, { off: !loaded || sending })

  const threads = views.flatMap((v) => v.rows)
  const standing = views.flatMap((v) => v.findings).filter((f) => f.severity !== 'note')
  const { behind: all, isBehind } = useBehind()
  const late = all.length
  const unbuilt = views.filter((v) => !v.node.live.running).length
  /** Nothing is said of a shop that has not been heard from yet. */
  const heard = (words: string) => (loaded ? words : '–')
  const some = late === 1 ? 'one node' : `${late} nodes`
  return (
    <Shell
      crumbs={[{ name: shop.name }]}
      here="Shop"
      back={null}
      last={
        loaded && (
          <Button variant="bare" onClick={() => router.push('/begin')}>
            <kbd>N</kbd>&ensp;new node
          </Button>
        )
      }
    >
      <div className="title">
        <h1>Shop</h1>
        <Fact name="nodes" value={heard(`${views.length}${unbuilt > 0 ? `, ${unbuilt} never run` : ''}`)} />
        <Fact name="threads" value={heard(`${threads.filter((r) => r.woven).length} of ${threads.length} designed`)} />
        <Fact name="standing" value={heard(countWords(standing))} />
        <Fact name="behind their design" value={heard(late === 0 ? 'none' : some)} />
        {late > 0 && (
          <div className="fact">
            <Button variant="quiet" onClick={() => setSending(true)}>
              Send them
            </Button>
          </div>
        )}
        <Sending show={sending} onHide={() => setSending(false)} />
        <Fact name="messages" value={heard(`${counts.perMinute} a minute`)} />
      </div>
      {loaded && views.length === 0 && <WishWork />}
      <div className="place wide" hidden={loaded && views.length === 0}>
        <div className="work">
          {!loaded && link === 'lost' && <p>The shop appears when the server answers.</p>}
          {views.length > 0 && (
            <table className="nodes stacked">
              <thead>
                <tr>
                  <th scope="col">node</th>
                  <th scope="col">knows and does</th>
                  <th scope="col">terminal → entity</th>
                  <th scope="col">findings</th>
                  <th scope="col">heard</th>
                  <th scope="col">runs</th>
                  <th scope="col" className="text-end" style={{ paddingRight: 0 }}>
                    now
                  </th>
                </tr>
              </thead>
              <tbody>
                {sorted.map(({ node, around, rows, findings }) => {
                  const settled = node.live.running ? 'as designed' : ''
                  return (
                    <tr key={node.id} data-gone={goneNow(node.live, now) || undefined}>
                      <td>
                        <Link className="name" href={`/node/${node.design.slug}`}>
                          {node.design.name}
                        </Link>
                        <small>{around.place}</small>
                        <GoneWhy node={node} now={now} />
                      </td>
                      <td style={{ maxWidth: 240 }}>
                        <span className="two-lines" title={rows.map((r) => r.signal.name).join(', ')}>
                          {rows.map((r) => r.signal.name).join(', ') || 'nothing yet'}
                        </span>
                        <small>{catalog.boards[node.design.board.id]?.name}</small>
                      </td>
                      <td>
                        <SmallThreads rows={rows} />
                      </td>
                      <td>
                        <span className="d-flex gap-2 align-items-center">
                          {findings[0] && <SeverityMark severity={findings[0].severity} />}
                          {countWords(findings)}
                        </span>
                      </td>
                      <td>
                        {heardWords(node.live, now)}
                        <small>{statusWords(node.live, now)}</small>
                      </td>
                      <td data-behind={isBehind(node)}>
                        {node.live.running === null ? (
                          <span className="soft">none</span>
                        ) : (
                          <Link
                            href={`/node/${node.design.slug}/program`}
                            className="position-relative"
                            style={{ zIndex: 1, color: 'inherit' }}
                          >
                            {node.live.running.revision}
                          </Link>
                        )}
                        <small>{node.live.sending?.step ?? (isBehind(node) ? 'design is ahead' : settled)}</small>
                      </td>
                      <td className="now">
                        <FirstNow node={node} now={now} row={rows[0]} />
                      </td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
          )}
        </div>
      </div>
    </Shell>
  )
}

function FirstNow({ node, now, row }: { node: ClientNode; now: number; row: ThreadRow | undefined }) {
  if (!row) return null
  const words = nowWords(row.signal, row.signalId, row.channel, node.live, now)
  return (
    <span className={words.tone === 'gone' ? 'gone' : undefined}>
      {words.value} <small style={{ display: 'inline' }}>{words.unit}</small>
      {words.age !== undefined && <small>{words.age}</small>}
    </span>
  )
}
