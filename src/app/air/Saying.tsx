'use client'
import { useState } from 'react'
import { Button, Form, Table } from 'react-bootstrap'
import { z } from 'zod'
import { inOrder, type Signal } from '@/core/model/design'
import { slugFrom } from '@/core/model/slug'
import { type Codes, codesOfSender, madeCodes } from '@/core/model/codesToSay'
import { Bits } from '@/ui/air/Bits'
import { ask } from '@/ui/live/api'
import { useBehind } from '@/ui/live/useBehind'
import { type ClientNode, editAll, newId, say, useLive } from '@/ui/live/store'
import { Ferrule } from '@/ui/thread/Ferrule'

interface Said {
  node: ClientNode
  id: string
  signal: Signal
}
interface Voice {
  node: ClientNode
  partId: string
  channel: string
}

/** What nodes of the shop say on the air: far things they switch, and one more. */
export function Saying() {
  const { nodes, order, catalog } = useLive()
  const [more, setMore] = useState(false)
  const all = order.flatMap((id) => nodes[id] ?? [])
  const voices = all.flatMap((node) =>
    inOrder(node.design.parts).flatMap(({ id: partId, value }): Voice[] => {
      const channel = catalog.parts[value.kind]?.channels.find((c) => c.driver === 'transmitter')
      return channel ? [{ node, partId, channel: channel.id }] : []
    }),
  )
  const said = voices.flatMap(({ node, partId }) =>
    inOrder(node.design.signals).flatMap(({ id, value }): Said[] =>
      value.partId === partId ? [{ node, id, signal: value }] : [],
    ),
  )
  return (
    <section>
      <h2 className="h5 mt-4">Switched from here</h2>
      {voices.length === 0 ? (
        <p className="small soft">
          Sockets and bells that take codes are switched by a transmitter: at the Parts of a node, add “Transmitter 433
          MHz”.
        </p>
      ) : (
        <p className="small soft">
          Codes a node says. Nobody answers on the air: what is shown is what was said last. A node keeps to the time on
          the air that its transmitter is set to.
        </p>
      )}
      {said.length > 0 && (
        <Table className="stacked">
          <thead>
            <tr>
              <th>far thing</th>
              <th>codes</th>
              <th>said last</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {said.map((s) => (
              <SaidRow key={`${s.node.id} ${s.id}`} said={s} />
            ))}
          </tbody>
        </Table>
      )}
      {voices.length > 0 &&
        (more ? (
          <SayForm voices={voices} said={said} onDone={() => setMore(false)} />
        ) : (
          <Button variant="quiet" onClick={() => setMore(true)}>
            Switch one more
          </Button>
        ))}
    </section>
  )
}

function SaidRow({ said: { node, id, signal } }: { said: Said }) {
  const { says } = signal.conditioning
  const last = node.live.values[id]?.value
  const [open, setOpen] = useState(false)
  const { isBehind } = useBehind()
  const here = node.live.status?.is === 'online'
  const unsent = last === undefined && isBehind(node)
  return (
    <tr data-says={signal.slug}>
      <td>
        <Ferrule signal={signal} /> <b>{signal.name}</b>
        <div className="small soft">
          {node.design.name}
          {says ? `, ${says.family.name}` : ''}
        </div>
      </td>
      <td>
        {says === null && 'nothing yet: choose its codes'}
        {says && <SaidCodes on={says.on} off={says.off} />}
        {open && <ChooseCodes node={node} signalId={id} onDone={() => setOpen(false)} />}
      </td>
      <td>
        {unsent && 'its node does not know it yet: send it the file'}
        {!unsent &&
          (last === undefined || last === null ? 'nothing since its node started' : lastWords(last === true, says))}
      </td>
      <td>
        {says && !unsent && (
          <>
            <SayButton
              node={node}
              signalId={id}
              signal={signal}
              value
              word={says.off === null ? 'Press' : 'Say on'}
              here={here}
            />{' '}
            {says.off !== null && (
              <SayButton node={node} signalId={id} signal={signal} value={false} word="Say off" here={here} />
            )}{' '}
          </>
        )}
        <Button variant="quiet" aria-expanded={open} onClick={() => setOpen(!open)}>
          Codes
        </Button>
      </td>
    </tr>
  )
}

/** Codes below one another, each with what it is for. */
function SaidCodes({ on, off }: { on: string; off: string | null }) {
  const row = (word: string, code: string) => (
    <div className="d-flex align-items-center gap-2 mt-1">
      <span className="small soft" style={{ width: '3rem' }}>
        {word}
      </span>
      <Bits code={code} />
    </div>
  )
  return (
    <>
      {row(off === null ? 'press' : 'on', on)}
      {off !== null && row('off', off)}
    </>
  )
}

function lastWords(on: boolean, says: Signal['conditioning']['says']): string {
  if (says?.off === null) return on ? 'being said' : 'a press, over by now'
  return on ? 'on' : 'off'
}

interface SayButtonProps {
  node: ClientNode
  signalId: string
  signal: Signal
  value: boolean
  word: string
  here: boolean
}

function SayButton({ node, signalId, signal, value, word, here }: SayButtonProps) {
  const [busy, setBusy] = useState(false)
  const send = async () => {
    setBusy(true)
    const a = await ask(`/api/nodes/${node.id}/command`, z.object({ ms: z.number() }), { signal: signalId, value })
    setBusy(false)
    if (a.kind === 'ok') say(`${signal.tag} ${signal.name}: ${node.design.name} says it; answered in ${a.value.ms} ms.`)
    else say(`${signal.tag} was not said: ${a.kind === 'away' ? 'the server cannot be reached' : a.error}.`, 'refused')
  }
  return (
    <Button variant="quiet" disabled={busy || !here} onClick={() => void send()}>
      {word}
    </Button>
  )
}

/** A far thing more: its node, its name, its codes. */
function SayForm({ voices, said, onDone }: { voices: readonly Voice[]; said: readonly Said[]; onDone: () => void }) {
  const [which, setWhich] = useState(0)
  const [name, setName] = useState('')
  const [codes, setCodes] = useState<{ familyId: string; codes: Codes } | null>(null)
  const families = useLive((s) => s.shop.families)
  const voice = voices[which]
  const family = codes && families[codes.familyId]
  const add = () => {
    if (!voice || !codes || !family) return
    const { design, id } = voice.node
    // The first thing of a transmitter may be there already, with nothing to say.
    const silent = said.find((s) => s.node.id === id && s.signal.partId === voice.partId && !s.signal.conditioning.says)
    const signalId = silent?.id ?? newId()
    const slug = slugFrom(
      name,
      Object.entries(design.signals).flatMap(([sid, s]) => (sid === signalId ? [] : [s.slug])),
    )
    const { on, off } = codes.codes
    const made = editAll(id, [
      silent
        ? { kind: 'rename-signal', signalId, name: name.trim(), slug }
        : {
            kind: 'add-signal',
            partId: voice.partId,
            signal: { id: signalId, channel: voice.channel, name: name.trim(), slug },
          },
      { kind: 'condition', signalId, set: { says: { family, on, off } } },
    ])
    if (!made) return
    say(
      `${name.trim()} is an output of ${design.name} now. Send its file; then hold the button of the far thing and say its code.`,
    )
    onDone()
  }
  return (
    <Form
      className="keep"
      onSubmit={(e) => {
        e.preventDefault()
        add()
      }}
    >
      <div className="sum-fields">
        <Form.Group controlId="say-node">
          <Form.Label>said by</Form.Label>
          <Form.Select value={which} onChange={(e) => setWhich(Number(e.target.value))}>
            {voices.map((v, i) => (
              <option key={`${v.node.id} ${v.partId}`} value={i}>
                {v.node.design.name}
                {voices.filter((o) => o.node.id === v.node.id).length > 1 &&
                  `, ${v.node.design.parts[v.partId]?.label}`}
              </option>
            ))}
          </Form.Select>
        </Form.Group>
        <Form.Group controlId="say-name">
          <Form.Label>what it switches</Form.Label>
          <Form.Control value={name} maxLength={60} required onChange={(e) => setName(e.target.value)} />
        </Form.Group>
      </div>
      <CodesChoice onChosen={(familyId, chosen) => setCodes({ familyId, codes: chosen })} />
      {codes && <SaidCodes on={codes.codes.on} off={codes.codes.off} />}
      <div className="caution">
        <strong>Say only what is yours</strong>
        Codes of your own things, on bands and for times that are allowed where you are. A code that was missed leaves a
        thing as it was: nothing that heats, moves or pumps may have the radio as its only end.
      </div>
      <p className="pt-2">
        <Button type="submit" disabled={name.trim() === '' || !codes || !family}>
          Add it
        </Button>{' '}
        <Button variant="quiet" onClick={onDone}>
          Not now
        </Button>
      </p>
    </Form>
  )
}

/** Other codes for one that is there. */
function ChooseCodes({ node, signalId, onDone }: { node: ClientNode; signalId: string; onDone: () => void }) {
  const families = useLive((s) => s.shop.families)
  return (
    <CodesChoice
      onChosen={(familyId, { on, off }) => {
        const family = families[familyId]
        if (family && editAll(node.id, [{ kind: 'condition', signalId, set: { says: { family, on, off } } }])) onDone()
      }}
    />
  )
}

/** Codes of a sender that is known, or new ones of a family. */
function CodesChoice({ onChosen }: { onChosen: (familyId: string, codes: Codes) => void }) {
  const { shop, nodes } = useLive()
  const known = Object.values(shop.senders)
    .sort((a, b) => a.order - b.order)
    .flatMap((sender) => codesOfSender(sender).map((codes) => ({ sender, codes })))
    .filter(({ sender }) => shop.families[sender.family]?.rolling === false)
  const makes = Object.entries(shop.families).filter(([, f]) => !f.rolling)
  const rolling = Object.values(shop.families).filter((f) => f.rolling)
  const taken = [
    ...Object.values(shop.senders).flatMap((s) => codesOfSender(s).flatMap((c) => [c.on, c.off ?? c.on])),
    ...Object.values(nodes).flatMap((n) =>
      Object.values(n.design.signals).flatMap((s) => s.conditioning.says?.on ?? []),
    ),
  ]
  return (
    <Form.Group controlId="say-codes" className="mt-2">
      <Form.Label>its codes</Form.Label>
      <Form.Select
        defaultValue=""
        onChange={(e) => {
          const [kind = '', at = ''] = e.target.value.split(' ')
          const taught = known[Number(at)]
          if (kind === 'of' && taught) return onChosen(taught.sender.family, taught.codes)
          const family = shop.families[at]
          if (family) onChosen(at, madeCodes(family, taken, kind === 'two', Math.random))
        }}
      >
        <option value="" disabled>
          choose
        </option>
        {known.map(({ sender, codes }, i) => (
          <option key={`${sender.tag} ${codes.on}`} value={`of ${i}`}>
            as {sender.tag} {sender.name} says them: {codes.words}
          </option>
        ))}
        {makes.flatMap(([id, f]) => [
          <option key={`two ${id}`} value={`two ${id}`}>
            new ones of {f.name}, on and off
          </option>,
          <option key={`one ${id}`} value={`one ${id}`}>
            a new one of {f.name}, a press
          </option>,
        ])}
      </Form.Select>
      <Form.Text>
        {makes.length === 0 && 'No family is described yet: learn a remote of the far thing first, or bring one in. '}
        {rolling.length > 0 &&
          `Codes of ${rolling.map((f) => f.name).join(', ')} change with every press and are said by nobody else.`}
      </Form.Text>
    </Form.Group>
  )
}
