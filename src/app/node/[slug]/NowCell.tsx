'use client'
import type { Scalar } from '@/core/publish/payload'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { z } from 'zod'
import type { ThreadRow } from '@/core/loom/threadRows'
import { isLate } from '@/core/publish/staleness'
import { ask } from '@/ui/live/api'
import { agoWords, type Now, nowWords } from '@/ui/live/nowWords'
import { say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** The latest value. A change is seen to change; a value that is older than it should be says its age. */
export function NowCell({ view, row, now }: { view: NodeView; row: ThreadRow; now: number }) {
  const { live } = view.node
  const words = nowWords(row.signal, row.signalId, row.channel, live, now)
  const last = live.values[row.signalId]
  const age = last && now > 0 ? now - Date.parse(last.at) : 0
  const gone = words.tone === 'gone'
  const fault = live.faults[row.signalId]
  const late = !gone && row.access !== 'event' && isLate(row.signal.publish.intervalS, age)
  return (
    <>
      <b
        key={last?.at ?? 'none'}
        className={stateClass(words.tone, row.access === 'event' || !last)}
        data-value={String(last?.value ?? '')}
        style={words.tone === 'value' ? undefined : { fontSize: '1.03rem', fontWeight: 450 }}
      >
        {words.value} <span className="unit">{words.unit}</span>
      </b>
      {words.tone === 'unknown' && fault && <small title={fault.what}>{fault.what}</small>}
      {late && <small>{agoWords(age)} old</small>}
      {words.age !== undefined && <small>{words.age}</small>}
      {!late && !gone && <Act view={view} row={row} last={last?.value ?? null} />}
    </>
  )
}

/** Greyed where the node is gone; a value that comes is seen to come. */
function stateClass(tone: Now['tone'], still: boolean): string {
  if (tone === 'gone') return 'gone'
  return still ? '' : 'changed'
}

/** What a person can do to an output from here. */
function Act({ view, row, last }: { view: NodeView; row: ThreadRow; last: Scalar }) {
  if (row.channel.access !== 'output') return null
  if (row.channel.value === 'on-off') return <Switch view={view} row={row} />
  if (row.channel.value !== 'percent') return null
  return <Dim key={String(last)} view={view} row={row} now={typeof last === 'number' ? last : 0} />
}

/** Sends a share of full power, 0 to 100, when Enter is pressed. */
function Dim({ view, row, now }: { view: NodeView; row: ThreadRow; now: number }) {
  const [text, setText] = useState(String(now))
  const send = async () => {
    const value = Number(text.replace(',', '.'))
    if (text.trim() === '' || !(value >= 0 && value <= 100))
      return say(`${row.signal.tag} takes 0 to 100 %.`, 'refused')
    const answer = await ask(`/api/nodes/${view.node.id}/command`, z.object({ ms: z.number() }), {
      signal: row.signalId,
      value,
    })
    if (answer.kind === 'ok')
      say(`${row.signal.tag} ${row.signal.name}: ${value} %, answered in ${answer.value.ms} ms.`)
    else
      say(
        answer.kind === 'away'
          ? 'The server cannot be reached; nothing was changed.'
          : `${row.signal.tag} was not changed: ${answer.error}.`,
        'refused',
      )
  }
  return (
    <input
      className="dim-field"
      inputMode="decimal"
      aria-label={`${row.signal.name}, %`}
      value={text}
      data-dim={row.signal.slug}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') void send()
      }}
    />
  )
}

/** Switches an output that is on or off, and says what the node answered. */
export function Switch({ view, row }: { view: NodeView; row: ThreadRow }) {
  const [busy, setBusy] = useState(false)
  const on = view.node.live.values[row.signalId]?.value === true
  const send = async () => {
    setBusy(true)
    const answer = await ask(`/api/nodes/${view.node.id}/command`, z.object({ ms: z.number() }), {
      signal: row.signalId,
      value: !on,
    })
    setBusy(false)
    if (answer.kind === 'ok')
      say(`${row.signal.tag} ${row.signal.name}: switched ${on ? 'off' : 'on'}, answered in ${answer.value.ms} ms.`)
    else
      say(
        answer.kind === 'away'
          ? 'The server cannot be reached; nothing was switched.'
          : `${row.signal.tag} was not switched: ${answer.error}.`,
        'refused',
      )
  }
  const turn = on ? 'switch off' : 'switch on'
  return (
    <Button variant="quiet" disabled={busy} onClick={() => void send()} data-switch={row.signal.slug}>
      {busy ? '…' : turn}
    </Button>
  )
}
