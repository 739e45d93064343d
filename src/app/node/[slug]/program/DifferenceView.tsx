'use client'
import { nodeFileSchema } from '@/core/nodefile/nodeFile'
import type { NodeLive } from '@/wire/protocol'
import 'react-diff-view/style/index.css'
import { createTwoFilesPatch } from 'diff'
import { useMemo, useState } from 'react'
import { Button, ProgressBar } from 'react-bootstrap'
import { Diff, Hunk, parseDiff } from 'react-diff-view'
import { type Difference, fileWords } from '@/core/nodefile/semanticDiff'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule } from '@/ui/thread/Ferrule'
import { STEPS, useSend } from '../useSend'
import type { DifferenceState } from './useDifference'

function SendingSteps({ sending }: { sending: NonNullable<NodeLive['sending']> }) {
  const { step } = sending
  return (
    <div role="status" className="pt-3 pe-0 pb-1 ps-0" data-sending={step}>
      <b>Revision {sending.revision}</b>{' '}
      {step === 'waits for it to wake'
        ? 'waits for the node to wake. It goes out while the node listens.'
        : `is ${step}${sending.pieces && step === 'sent' ? `, ${sending.pieces.sent} of ${sending.pieces.of} pieces taken` : ''}. The file in force stays until the new one has started and connected; after a minute without that the node goes back by itself.`}
      {step !== 'waits for it to wake' && (
        <ProgressBar
          now={STEPS.indexOf(step) + 1}
          max={STEPS.length + 1}
          aria-label="sending"
          className="mt-2"
          style={{ height: 8 }}
        />
      )}
    </div>
  )
}

function SendButton({ view }: { view: NodeView }) {
  const { send, busy, ready, goOn } = useSend(view)
  const { status } = view.node.live
  const reached = status?.is === 'online' || status?.is === 'asleep'
  const words = status?.is === 'asleep' ? 'Send when it wakes' : 'Send'
  return (
    <>
      {goOn}
      <Button disabled={!ready || !reached} onClick={() => void send()}>
        {busy ? 'Sending …' : words}
      </Button>
      {!reached && (
        <span className="soft small align-self-center">The node is not connected; nothing can be sent.</span>
      )}
    </>
  )
}

/** Meaning first, text second, and the way to send it. */
export function DifferenceView({ view, difference }: { view: NodeView; difference: DifferenceState }) {
  const [text, setText] = useState(false)
  const { running, sending } = view.node.live
  if (difference.kind === 'waiting') return <p className="pt-3">…</p>
  if (difference.kind === 'incomplete') {
    return (
      <div className="empty">
        <h2>There is no file to send yet</h2>
        <ul>
          {difference.reasons.map((r) => (
            <li key={r}>{r}</li>
          ))}
        </ul>
      </div>
    )
  }
  const { meaning } = difference
  const nothing = meaning !== null && meaning.length === 0
  const texts =
    nothing || difference.runningText === null ? null : { before: difference.runningText, after: difference.designText }
  return (
    <>
      {sending && <SendingSteps sending={sending} />}
      {meaning === null ? (
        <p className="pt-3">
          {running === null
            ? 'The node has not said yet what it runs. Its first file goes onto the board by cable: see Install.'
            : `The node runs revision ${running.revision}, a file that is not kept here. Sending replaces all of it.`}
        </p>
      ) : (
        <Meaning view={view} meaning={meaning} />
      )}
      {nothing && <WhatRuns view={view} text={difference.designText} />}
      <div className="d-flex gap-2 py-3 px-0">
        {!nothing && <SendButton view={view} />}
        {texts && (
          <Button variant="quiet" aria-expanded={text} onClick={() => setText(!text)}>
            {text ? 'Hide' : 'Show'} the text
          </Button>
        )}
      </div>
      {text && texts && <TextDifference {...texts} />}
    </>
  )
}

/** Nothing would change: then what does run, in words. */
function WhatRuns({ view, text }: { view: NodeView; text: string }) {
  const { boards } = view.catalog
  const words = useMemo(() => {
    const file = nodeFileSchema.safeParse(JSON.parse(text))
    return file.success ? fileWords(file.data, (id) => boards[id]?.name ?? id) : []
  }, [text, boards])
  return (
    <>
      <p className="pt-3">Nothing: the node does what the design says. This is what runs on it.</p>
      <Meaning view={view} meaning={words} label="what runs" />
    </>
  )
}

/** Differences by signal, the node's own first. */
export function Meaning({
  view,
  meaning,
  label = 'what is otherwise',
}: {
  view: NodeView
  meaning: readonly Difference[]
  label?: string
}) {
  if (meaning.length === 0) return null
  const signals = Object.values(view.node.design.signals)
  const groups = [...new Set(meaning.map((d) => d.of))].sort((a, b) => Number(a !== null) - Number(b !== null))
  return (
    <table className="table mt-2" aria-label={label}>
      <tbody>
        {groups.map((of) => {
          const signal = signals.find((s) => s.slug === of)
          return (
            <tr key={of ?? ''}>
              <td style={{ width: 190 }}>
                {signal ? (
                  <>
                    <Ferrule signal={signal} />
                    &ensp;{signal.name}
                  </>
                ) : (
                  (of ?? 'the node')
                )}
              </td>
              <td>
                {meaning
                  .filter((d) => d.of === of)
                  .map((d) => (
                    <div key={d.words} data-difference={of ?? 'node'}>
                      {of !== null && d.words.endsWith(` on ${of}`) ? d.words.slice(0, -of.length - 4) : d.words}
                    </div>
                  ))}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** Two files side by side, changed lines only with a few around them. */
export function TextDifference({ before, after }: { before: string; after: string }) {
  const [file] = useMemo(
    () =>
      parseDiff(
        createTwoFilesPatch('running', 'design', `${before}\n`, `${after}\n`, '', '', { context: 2 }).replace(
          /^=+\n/,
          'diff --git a/running b/design\n',
        ),
      ),
    [before, after],
  )
  if (!file || file.hunks.length === 0) return <p className="soft">No line differs.</p>
  return (
    <div className="text-difference" tabIndex={0} aria-label="both files">
      <Diff viewType="split" diffType="modify" hunks={file.hunks}>
        {(hunks) => hunks.map((h) => <Hunk key={h.content} hunk={h} />)}
      </Diff>
    </div>
  )
}
