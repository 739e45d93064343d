'use client'
import Link from 'next/link'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { inOrder } from '@/core/model/design'
import { channelOf } from '@/core/publish/channelOf'
import type { Deed } from '@/wire/deeds'
import type { Told } from '@/wire/protocol'
import { CableStandIn } from './CableStandIn'
import { type DriverName, traitsOf } from '@/core/catalog/drivers'
import { ask } from '@/ui/live/api'
import { type ClientNode, say, useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { Fact } from '@/ui/shell/Fact'

/** Faults that pass by themselves after the time chosen above. */
const FAULTS = [
  ['unplugged', 'unplug its parts'],
  ['garbage', 'garbage on its buses'],
  ['hangs', 'let its program hang'],
  ['no network', 'no network'],
] as const
const SPEEDS = [0, 1, 10, 60, 300]

async function tell(body: object, done: string): Promise<void> {
  const answer = await ask('/api/standin', z.object({}), body)
  if (answer.kind === 'ok') say(done)
  else say(answer.error, 'refused')
}

/** What the two controllers that read no descriptions know, told by the shop's templates alone. */
function ToldOf({ told }: { told: Told | null }) {
  if (!told) return null
  const none = 'nothing: its template is off, or says nothing it takes'
  return (
    <p className="small" data-told={told.panel.length}>
      Two controllers here read no Thing Descriptions and know only what the shop’s{' '}
      <Link href="/entities">templates</Link> tell them. The wall panel knows{' '}
      {told.panel.length > 0 ? `${told.panel.length} entities` : none}; the hub knows{' '}
      {told.hub.length > 0 ? told.hub.join(', ') : none}.
    </p>
  )
}

/** Demo only: the simulated boards run the very files the product compiles; here somebody pulls their plugs. */
export function StandIns() {
  const { loaded, demo, nodes, order, boards, shop, catalog, told } = useLive()
  const [forS, setForS] = useState(20)
  const shown = order.flatMap((id) => (nodes[id] && boards[id] ? [nodes[id]] : []))
  return (
    <Shell crumbs={[{ name: shop.name, href: '/' }, { name: 'Stand-ins' }]} here="Stand-ins" back="/">
      <div className="title">
        <h1>Stand-ins</h1>
        <Fact name="simulated boards" value={String(shown.length)} />
        <Fact name="in trouble" value={String(shown.filter((n) => (boards[n.id]?.active.length ?? 0) > 0).length)} />
        <div className="fact">
          <label htmlFor="d-for">a fault lasts</label>
          <Form.Select id="d-for" style={{ width: 110 }} value={forS} onChange={(e) => setForS(Number(e.target.value))}>
            {[5, 20, 60, 300].map((s) => (
              <option key={s} value={s}>
                {s} s
              </option>
            ))}
          </Form.Select>
        </div>
      </div>
      <div className="place wide">
        <div className="work">
          {loaded && !demo && <p>There are no simulated boards here: this is not the demo.</p>}
          <ToldOf told={told} />
          <table className="table mt-1 stacked">
            <thead>
              <tr>
                <th scope="col">board</th>
                <th scope="col">now</th>
                <th scope="col">faults that pass by themselves</th>
                <th scope="col">power and line</th>
                <th scope="col">its world</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((n) => (
                <BoardRow
                  key={n.id}
                  node={n}
                  forS={forS}
                  inputs={inOrder(n.design.signals).flatMap(({ value }) => {
                    const c = channelOf(n.design, catalog, value)
                    return c ? [{ slug: value.slug, name: value.name, driver: c.driver }] : []
                  })}
                />
              ))}
            </tbody>
          </table>
          {demo && <AccessPoint />}
          {demo && <CableStandIn />}
        </div>
      </div>
    </Shell>
  )
}

function BoardRow({
  node,
  forS,
  inputs,
}: {
  node: ClientNode
  forS: number
  inputs: { slug: string; name: string; driver: DriverName }[]
}) {
  const board = useLive((s) => s.boards[node.id])
  const { slug, name } = node.design
  const deed = (d: Deed, done: string) => void tell({ board: slug, deed: d }, done)
  if (!board) return null
  const cut = board.active.includes('cut')
  const stateWords = board.asleep ? 'sleeps' : 'well'
  return (
    <tr data-standin={slug}>
      <td>
        <Link
          href={`/node/${slug}`}
          className="text-decoration-none text-nowrap"
          style={{ color: 'inherit', fontWeight: 620 }}
        >
          {name}
        </Link>
        <br />
        <span className="small soft">{node.live.status?.is ?? 'not connected'}</span>
      </td>
      <td data-active={board.active.join(' ')}>
        {board.active.length > 0 ? <b>{board.active.join(', ')}</b> : stateWords}
        <br />
        <span className="small soft nowrap">step ≤ {board.longestStepMs} ms</span>
      </td>
      <td>
        <div className="doings">
          {FAULTS.map(([fault, words]) => (
            <Button
              key={fault}
              variant="quiet"
              disabled={board.active.includes(fault)}
              onClick={() => deed({ fault, for: forS }, `${name}: ${words}, for ${forS} s.`)}
            >
              {words}
            </Button>
          ))}
        </div>
      </td>
      <td>
        <div className="doings">
          <Button
            variant="quiet"
            aria-pressed={cut}
            onClick={() =>
              deed({ cut: !cut }, cut ? `${name}: the antenna is back on.` : `${name}: the antenna is off.`)
            }
          >
            {cut ? 'antenna on' : 'antenna off'}
          </Button>
          <Button variant="quiet" onClick={() => deed({ power: 'off and on' }, `${name}: power off and on.`)}>
            {board.asleep ? 'wake it' : 'restart'}
          </Button>
          <Button
            variant="quiet"
            onClick={() => deed({ power: 'sag' }, `${name}: the supply sagged and the watchdog started it anew.`)}
          >
            sagging supply
          </Button>
        </div>
      </td>
      <td>
        <div className="doings">
          <Form.Select
            aria-label={`speed of the world of ${name}`}
            style={{ width: 120 }}
            value={board.speed}
            onChange={(e) =>
              deed({ speed: Number(e.target.value) }, `${name}: the world goes ${e.target.value} times as fast.`)
            }
          >
            {SPEEDS.map((s) => (
              <option key={s} value={s}>
                {s === 0 ? 'stands still' : `× ${s}`}
              </option>
            ))}
          </Form.Select>
          {inputs
            .flatMap((i) => {
              const done = handOf(i)
              return done ? [{ ...i, done }] : []
            })
            .slice(0, 2)
            .map(({ slug, done }) => (
              <Button key={slug} variant="quiet" onClick={() => deed(done.deed, done.said)}>
                {done.label}
              </Button>
            ))}
          {inputs
            .filter((i) => traitsOf(i.driver).hand === 'closes')
            .slice(0, 2)
            .map((i) => (
              <span key={i.slug} className="text-nowrap">
                {i.name}:{' '}
                <Button
                  variant="bare"
                  onClick={() => deed({ contact: i.slug, closed: true }, `${i.name}: contact closed.`)}
                >
                  close
                </Button>{' '}
                <Button
                  variant="bare"
                  onClick={() => deed({ contact: i.slug, closed: false }, `${i.name}: contact open.`)}
                >
                  open
                </Button>
              </span>
            ))}
          {inputs.some((i) => i.driver === 'onewire') && !inputs.some((i) => i.driver === 'ranger') && (
            <Button variant="quiet" onClick={() => deed({ fire: true }, 'A firing has begun.')}>
              fire the kiln
            </Button>
          )}
        </div>
      </td>
    </tr>
  )
}

/** The demo's access point: what it lets in, changed here as somebody would at the real one. */
function AccessPoint() {
  const networks = useLive((s) => s.shop.networks)
  const [password, setPassword] = useState('')
  const name = Object.values(networks)[0]?.name ?? ''
  return (
    <Form
      className="fields pt-4"

      onSubmit={(e) => {
        e.preventDefault()
        void tell({ accessPoint: { name, password } }, 'The access point lets in only the new password now.')
      }}
    >
      <div>
        <Form.Label htmlFor="d-ap">the access point of “{name}” takes another password</Form.Label>
        <Form.Control
          id="d-ap"
          value={password}
          minLength={8}
          autoComplete="off"
          onChange={(e) => setPassword(e.target.value)}
          style={{ width: 340 }}
        />
      </div>
      <Button type="submit" variant="quiet" disabled={password.length < 8}>
        Change it there
      </Button>
    </Form>
  )
}

interface Hand {
  label: string
  deed: Deed
  said: string
}

/** What a hand does at an input of a board, by the driver that reads it; null where a button cannot do it. */
function handOf({ slug, name, driver }: { slug: string; name: string; driver: DriverName }): Hand | null {
  switch (traitsOf(driver).hand) {
    case 'presses':
      return { label: name, deed: { press: 120, slug }, said: `Somebody pressed ${name}.` }
    case 'holds':
      return { label: name, deed: { key: slug, press: 150 }, said: `Somebody pressed ${name}.` }
    case 'turns':
      return { label: `turn ${name}`, deed: { turn: 1 }, said: `${name} turned by a click.` }
    case 'sends':
      return { label: 'send a code', deed: { send: 0x5a3c71 }, said: 'A contact of the glaze store sent its code.' }
    default:
      return null
  }
}
