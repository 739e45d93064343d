'use client'
import { Form, Offcanvas } from 'react-bootstrap'
import Link from 'next/link'
import { evidenceOf, type OddSignal } from '../../core/publish/evidence'
import { isLate } from '../../core/publish/staleness'
import { readStartup } from '../../core/startup/readStartup'
import { heardOnCable, useLastHeard } from '../cable/lastHeard'
import { Ferrule } from '../thread/Ferrule'
import { agoWords, goneNow, silenceOf } from './nowWords'
import { type ClientNode, useLive } from './store'
import { useBehind } from './useBehind'
import type { NodeView } from './useNode'

interface WhySilentProps {
  view: NodeView
  now: number
  show: boolean
  onHide: () => void
}

/** Every link from this page to a node and its odd signals, what is known of each, and what fits: the likeliest first. */
export function WhySilent({ view, now, show, onHide }: WhySilentProps) {
  const nodes = useLive((s) => s.nodes)
  const carriers = useLive((s) => s.carriers)
  const { link } = useLive((s) => s.broker)
  const thread = useLive((s) => s.thread)
  const { isBehind } = useBehind()
  const said = useLastHeard((s) => s[view.node.id] ?? null)
  if (!show || now === 0) return null
  const { node, derived } = view
  const { ref } = node.design.network
  const gone = goneNow(node.live, now)
  const chosen =
    derived.rows.find((r) => r.signalId === thread) ?? derived.rows.find((r) => isOdd(node, r.signalId, now))
  const signal = chosen ? oddSignal(view, chosen.signalId, isBehind(node)) : null
  const carries = carriers.find((c) => c.ref === ref)?.nodes.find((n) => n.id === node.id)?.state ?? null
  const { links, causes } = evidenceOf(
    {
      node: {
        ...silenceOf(node.live, ref),
        name: node.design.name,
        runs: node.live.running?.revision ?? null,
        network: ref,
      },
      others: Object.values(nodes)
        .filter((n) => n.id !== node.id)
        .map((n) => silenceOf(n.live, n.design.network.ref)),
      broker: link,
      carries,
      cable: said && { text: said.text, wrong: said.kind !== 'fine', next: said.next[0] ?? '' },
      signal: gone && thread === null ? null : signal,
    },
    now / 1000,
    (s) => agoWords(s * 1000),
  )
  return (
    <Offcanvas show onHide={onHide} placement="end" aria-labelledby="why-silent">
      <Offcanvas.Header closeButton>
        <Offcanvas.Title id="why-silent">
          Why is {chosen && !gone ? `${chosen.signal.tag} ${chosen.signal.name}` : node.design.name} silent?
        </Offcanvas.Title>
      </Offcanvas.Header>
      <Offcanvas.Body data-why-silent={causes.length}>
        {chosen && (
          <p className="small">
            Looked at: <Ferrule signal={chosen.signal} /> {chosen.signal.name}. Another thread is chosen in the Loom.
          </p>
        )}
        <table className="table">
          <tbody>
            {links.map((l) => (
              <tr key={l.name} data-link-holds={String(l.holds)}>
                <td className="text-nowrap" aria-label={holdsWords(l.holds)}>
                  {MARKS[String(l.holds)]}
                </td>
                <td>{l.name}</td>
                <td>{l.known}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <h2>{causes.length === 0 ? 'Nothing is odd' : 'What fits, the likeliest first'}</h2>
        {causes.length === 0 && <p>Every link that can be seen from here holds.</p>}
        <ol>
          {causes.map((c) => (
            <li key={c.words} className="mb-2">
              {c.words} <b>{c.next}</b>
            </li>
          ))}
        </ol>
        <p className="small">
          The measurements one after the other, with what each should show:{' '}
          <Link href={`/node/${node.design.slug}/bring-up`}>Bring-up</Link>.
        </p>
        <Form.Label htmlFor="why-text" className="small">
          What it says on a cable, if one is on it: paste it here; passwords in it are not shown.
        </Form.Label>
        <Form.Control
          id="why-text"
          as="textarea"
          rows={2}
          value=""
          onChange={(e) => {
            const { interpreter, usb } = view.board
            if (e.target.value.trim() !== '')
              heardOnCable(node.id, readStartup(e.target.value, { chip: interpreter.chip, usb }))
          }}
        />
      </Offcanvas.Body>
    </Offcanvas>
  )
}

function holdsWords(holds: boolean | null): string {
  if (holds === null) return 'nobody can say from here'
  return holds ? 'holds' : 'does not hold'
}

const MARKS: Record<string, string> = { null: '?', true: '✓', false: '✗' }

/** Unknown, late, or with a fault said of it. */
function isOdd({ design, live }: ClientNode, id: string, now: number): boolean {
  const [signal, value] = [design.signals[id], live.values[id]]
  if (!signal) return false
  if (id in live.faults) return true
  if (!value) return false
  return value.value === null || isLate(signal.publish.intervalS, now - Date.parse(value.at))
}

function oddSignal({ node, derived }: NodeView, id: string, behind: boolean): OddSignal | null {
  const row = derived.rows.find((r) => r.signalId === id)
  if (!row) return null
  const { live } = node
  const [value, fault] = [live.values[id], live.faults[id]]
  const { tag, name, publish } = row.signal
  return {
    tag,
    name,
    access: row.access,
    part: row.partLabel,
    terminals: row.cells.terminals.fact,
    value: value?.value,
    atS: value ? Date.parse(value.at) / 1000 : null,
    everyS: Math.max(publish.intervalS, node.design.sleep?.everyS ?? 0),
    fault: fault ? { what: fault.what, atS: Date.parse(fault.at) / 1000 } : null,
    inFile: inFile(live.running !== null, value !== undefined, behind),
  }
}

/** Whether the node's file has a signal: it has where it says a value, or runs what is designed. */
function inFile(runs: boolean, told: boolean, behind: boolean): boolean | null {
  if (told) return true
  if (!runs) return null
  return !behind
}
