'use client'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { hearsAir } from '@/core/publish/hearsAir'
import { addressBits, clash } from '@/core/radio/candidates'
import { useAir } from '@/ui/air/useAir'
import { useKeys } from '@/ui/keys/useKeys'
import { useBehind } from '@/ui/live/useBehind'
import { useClock } from '@/ui/live/useClock'
import { useLive } from '@/ui/live/store'
import { Fact } from '@/ui/shell/Fact'
import { Shell } from '@/ui/shell/Shell'
import { Sending } from '../Sending'
import { Families } from './Families'
import { Heard } from './Heard'
import { Learn } from './Learn'
import { Saying } from './Saying'
import { Senders } from './Senders'

const LISTEN_S = 600

/** Far things that are heard: those of the shop, and, while somebody listens, everything else. */
export function Air() {
  const { shop, nodes, order, catalog, loaded } = useLive()
  const air = useAir()
  const now = useClock()
  const [learning, setLearning] = useState(false)
  const [sending, setSending] = useState(false)
  const gateways = order.flatMap((id) => {
    const node = nodes[id]
    return node && hearsAir(node.design, catalog) ? [node] : []
  })
  const { behind } = useBehind()
  const waits = gateways.filter((g) => behind.includes(g.id))
  const here = gateways.filter((g) => g.live.status?.is === 'online')
  const heard = air.recent(now)
  const untilS =
    air.listening.until === null ? 0 : Math.max(0, Math.round((Date.parse(air.listening.until) - now) / 1000))
  // Of the shortest there is.
  const bits = Math.min(24, ...Object.values(shop.families).map(addressBits))
  const begin = () => {
    void air.listen(LISTEN_S)
    setLearning(true)
  }
  useKeys({ n: begin }, { off: learning || sending || here.length === 0 })
  return (
    <Shell crumbs={[{ name: shop.name, href: '/' }, { name: 'Air' }]} here="Air" back="/" nodeId={null}>
      <div className="title">
        <h1>Air</h1>
        <Fact name="senders" value={loaded ? String(Object.keys(shop.senders).length) : '–'} />
        <Fact name="heard by" value={here.map((g) => g.design.name).join(', ') || 'nobody now'} />
        <Fact
          name="in the air"
          value={untilS > 0 ? `${heard.length} ${heard.length === 1 ? 'sender' : 'senders'}` : 'nobody listens'}
        />
        {!learning && (
          <div className="fact on-screen">
            <Button disabled={here.length === 0} onClick={begin}>
              Learn one <span className="digit">N</span>
            </Button>
            {untilS > 0 ? (
              <Button variant="quiet" onClick={() => void air.listen(0)}>
                Stop listening, {untilS} s left
              </Button>
            ) : (
              <Button variant="quiet" disabled={here.length === 0} onClick={() => void air.listen(LISTEN_S)}>
                Listen for ten minutes
              </Button>
            )}
          </div>
        )}
      </div>
      <div className="place">
        <div className="work">
          {loaded && gateways.length === 0 && (
            <div className="empty">
              <h2>Nobody here hears codes yet</h2>
              <p>
                A receiver at any node makes it a gateway: at its Parts, add “Receiver 433 MHz”. Contacts, remotes and
                motion sensors it hears can then be learnt here.
              </p>
            </div>
          )}
          {learning ? (
            <Learn air={air} gateways={gateways} onDone={() => setLearning(false)} />
          ) : (
            gateways.length > 0 && (
              <>
                <Senders gateways={gateways} now={now} />
                {(untilS > 0 || heard.length > 0) && <Heard heard={heard} now={now} />}
              </>
            )
          )}
          {!learning && loaded && (
            <>
              <Saying />
              <Families />
            </>
          )}
        </div>
        <aside className="margin" aria-label="margin">
          <h2>where it is heard</h2>
          {gateways.map((g) => {
            const asked = air.listening.gateways.find((a) => a.node === g.id)
            const bursts = heard.reduce((sum, h) => sum + (h.by[g.design.slug] ?? 0), 0)
            return (
              <p key={g.id} className="pt-2 mb-1">
                <b className="mono">{g.design.slug}</b>{' '}
                <span className="small soft">
                  {g.live.status?.is === 'online'
                    ? `${bursts} bursts in ten minutes`
                    : 'is not connected: it hears for nobody'}
                  {asked?.why ? `; ${asked.why}` : ''}
                </span>
              </p>
            )
          })}
          {waits.length > 0 && (
            <section className="finding">
              <p>
                {waits.map((w) => w.design.name).join(', ')} {waits.length === 1 ? 'does' : 'do'} not know the latest
                yet: what is learnt here works once it is sent.
              </p>
              <Button variant="quiet" onClick={() => setSending(true)}>
                Send
              </Button>
            </section>
          )}
          <section className="finding">
            <p>
              An address of {bits} bits tells one sender from another. A second one with the same within earshot is
              possible: 1 in{' '}
              {Math.round(1 / clash(bits, Math.max(1, heard.length)))
                .toLocaleString('en')
                .replace(/,/g, ' ')}{' '}
              for {Math.max(1, heard.length)} heard.
            </p>
          </section>
          <div className="caution">
            <strong>Receive only what is yours</strong>
            Listening to other people’s devices is not allowed in many places. What is not learnt is forgotten after ten
            minutes.
          </div>
          <div className="caution">
            <strong>Information, not protection</strong>A code can be missed, copied or jammed, and most contacts never
            say that their cell is empty. Nothing that keeps people or things safe may depend on one.
          </div>
        </aside>
      </div>
      <Sending show={sending} onHide={() => setSending(false)} />
    </Shell>
  )
}
