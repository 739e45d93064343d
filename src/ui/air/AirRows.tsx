'use client'
import Link from 'next/link'
import { Table } from 'react-bootstrap'
import { NOT_HEARD } from '../../wire/air'
import { agoWords } from '../live/nowWords'
import { useLive } from '../live/store'
import { NetFerrule } from '../thread/Ferrule'
import { mainSignal, signalNow } from './senderWords'

/** Rows of the loom that begin in the air: senders this node carries, what each says, and who speaks for it. */
export function AirRows({ nodeId, slug, online, now }: { nodeId: string; slug: string; online: boolean; now: number }) {
  const senders = useLive((s) => s.shop.senders)
  const live = useLive((s) => s.senders)
  const own = Object.entries(senders)
    .filter(([, s]) => s.receivers.includes(nodeId))
    .sort((a, b) => a[1].order - b[1].order)
  if (own.length === 0) return null
  return (
    <section className="pt-3">
      <h2 className="h5">
        <Link href="/air">From the air</Link>
      </h2>
      <Table className="senders stacked">
        <tbody>
          {own.map(([id, sender]) => {
            const state = live[id] ?? NOT_HEARD
            const main = mainSignal(sender)
            const said = main && signalNow(main[0], main[1], state, now, online)
            return (
              <tr key={id} data-carries={sender.slug}>
                <td>
                  <NetFerrule net={sender.tag} /> <b>{sender.name}</b>
                </td>
                <td className="mono small">
                  …/{sender.slug}/{main?.[1].slug}
                </td>
                <td>
                  {said?.word} <span className="small soft">{said?.detail}</span>
                </td>
                <td className="small soft">
                  {state.heardAt === null
                    ? 'not heard yet'
                    : `heard ${agoWords(Math.max(0, now - Date.parse(state.heardAt)))} ago by ${state.by ?? ''}`}
                  {state.via !== null && state.via !== slug && `; ${state.via} speaks for it`}
                </td>
              </tr>
            )
          })}
        </tbody>
      </Table>
    </section>
  )
}
