'use client'
import type { Access, Channel } from '@/core/catalog/part'
import { useSearchParams } from 'next/navigation'
import { useState } from 'react'
import { Form } from 'react-bootstrap'
import { z } from 'zod'
import { inOrder, type Conditioning, type Signal } from '@/core/model/design'
import { channelOf } from '@/core/publish/channelOf'
import { EditField } from '@/ui/fields/EditField'
import { SameOnOthers } from '@/ui/fields/SameOnOthers'
import { numberIn } from '@/ui/fields/numberIn'
import { Margin } from '@/ui/findings/Margin'
import { edit } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Bench } from '../Bench'
import { RunningFact } from '../RunningFact'
import { Calibrate } from './Calibrate'
import { CloseListening } from './CloseListening'
import { LearnKeys } from './LearnKeys'
import { LearnStates } from './LearnStates'
import { Levels } from './Levels'
import { StatesOf } from './StatesOf'
import { Traces } from './traces/Traces'

export function Tune() {
  return <Bench name="Tune">{(view) => <TuneOf view={view} />}</Bench>
}

function TuneOf({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    catalog,
    derived,
  } = view
  const asked = useSearchParams().get('thread')
  const signals = inOrder(design.signals)
  const [picked, setPicked] = useState<string | null>(null)
  const chosen = signals.find((s) => s.id === (picked ?? asked)) ?? signals[0]
  const channel = chosen && channelOf(design, catalog, chosen.value)
  return (
    <>
      <div className="title">
        <h1>Tune</h1>
        <div className="fact">
          <label htmlFor="tune-signal">thread</label>
          <Form.Select
            id="tune-signal"
            className="w-auto"
            value={chosen?.id ?? ''}
            onChange={(e) => setPicked(e.target.value)}
          >
            {signals.map((s) => (
              <option key={s.id} value={s.id}>
                {s.value.tag} {s.value.name}
              </option>
            ))}
          </Form.Select>
        </div>
        {chosen && channel && (
          <ConditioningFields
            key={chosen.id}
            nodeId={id}
            signalId={chosen.id}
            conditioning={chosen.value.conditioning}
            access={channel.access}
            level={channel.access === 'reading' && channel.proposes.geometry === 'level'}
          />
        )}
        {chosen && (
          <div className="fact">
            <SameOnOthers view={view} signalId={chosen.id} />
          </div>
        )}
        <RunningFact view={view} />
      </div>
      <div className="place">
        <div className="work">
          {chosen && channel && (
            <Work
              key={chosen.id}
              view={view}
              signalId={chosen.id}
              signal={chosen.value}
              channel={channel}
              onPick={setPicked}
            />
          )}
          {!chosen && (
            <div className="empty">
              <h2>No signals yet</h2>
            </div>
          )}
        </div>
        <aside className="margin" aria-label="margin">
          <Margin
            nodeId={id}
            design={design}
            findings={derived.findings.filter((f) => f.signalId === chosen?.id)}
            all={derived.findings}
          />
        </aside>
      </div>
    </>
  )
}

/** What there is to do with a signal: calibrate it, make words of it, listen to it. */
function Work({
  view,
  signalId,
  signal,
  channel,
  onPick,
}: {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Channel
  onPick: (id: string) => void
}) {
  const { levels } = signal.conditioning
  return (
    <>
      {channel.access === 'reading' ? (
        <>
          <Calibrate view={view} signalId={signalId} signal={signal} channel={channel} />
          <StatesOf view={view} signalId={signalId} channel={channel} onPick={onPick} />
          <LearnStates view={view} signalId={signalId} signal={signal} channel={channel} onMade={onPick} />
          {listenable(channel) && <Traces view={view} signalId={signalId} signal={signal} channel={channel} />}
        </>
      ) : (
        !levels && (
          <p className="pt-4">
            {signal.tag} {signal.name} has nothing to calibrate; its times stand in the head line.
          </p>
        )
      )}
      {channel.driver === 'ladder' && <LearnKeys view={view} signalId={signalId} />}
      {levels && <Levels view={view} signalId={signalId} />}
      {listenable(channel) && <CloseListening view={view} signalId={signalId} channel={channel} />}
    </>
  )
}

/** What a board can let be listened to closely: keys behind a matrix or an expander are asked only when they are. */
const listenable = (channel: Channel): boolean =>
  !['levels', 'key', 'expander', 'encoder', 'radio'].includes(channel.driver) && channel.access !== 'output'

interface ConditioningProps {
  nodeId: string
  signalId: string
  conditioning: Conditioning
  access: Access
  level: boolean
}

const medianSchema = z.union([z.literal(1), z.literal(3), z.literal(5), z.literal(7), z.literal(9)])

/** How a signal is conditioned on the node, each value an edit. */
function ConditioningFields({ nodeId, signalId, conditioning: c, access, level }: ConditioningProps) {
  const save = (set: Partial<Conditioning>) => edit(nodeId, { kind: 'condition', signalId, set })
  if (access === 'output')
    return (
      <EditField
        id="longest"
        label="longest on"
        unit="s"
        width={110}
        value={c.longestOnS}
        schema={numberIn(0, 86400, 's')}
        onSave={(longestOnS) => save({ longestOnS })}
      />
    )
  if (c.levels) return null
  if (access === 'event' || access === 'state')
    return (
      <EditField
        id="debounce"
        label="debounce"
        unit="ms"
        width={110}
        value={c.debounceMs}
        schema={numberIn(0, 500, 'ms')}
        onSave={(debounceMs) => save({ debounceMs })}
      />
    )
  return (
    <>
      <div className="fact">
        <label htmlFor="median">median of</label>
        <Form.Select
          id="median"
          style={{ width: 76 }}
          value={c.median}
          onChange={(e) => {
            const parsed = medianSchema.safeParse(Number(e.target.value))
            if (parsed.success) save({ median: parsed.data })
          }}
        >
          {[1, 3, 5, 7, 9].map((m) => (
            <option key={m}>{m}</option>
          ))}
        </Form.Select>
      </div>
      <EditField
        id="average"
        label="average over"
        unit="s"
        width={100}
        value={c.averageS}
        schema={numberIn(0, 3600, 's')}
        onSave={(averageS) => save({ averageS })}
      />
      {level && (
        <EditField
          id="mount"
          label="mounting height"
          unit="mm"
          width={132}
          value={Math.round((c.mountM ?? 0) * 1000)}
          schema={numberIn(0, 50_000, 'mm')}
          onSave={(mm) => save({ mountM: mm / 1000 })}
        />
      )}
    </>
  )
}
