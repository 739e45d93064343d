'use client'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { z } from 'zod'
import { scatterOf } from '@/core/calibration/scatter'
import { isKey } from '@/core/catalog/drivers'
import { heardTogether } from '@/core/drivers/ladderShare'
import { inOrder } from '@/core/model/design'
import { listened } from '@/core/trace/closely'
import { ask } from '@/ui/live/api'
import { closelyKey, forgetClosely, useClosely } from '@/ui/live/closely'
import { useClock } from '@/ui/live/useClock'
import { edit, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule } from '@/ui/thread/Ferrule'

const NOTHING: never[] = []
const FOR_S = 120
/** What counts of a key that is held: the last of what was heard, s. */
const LAST_S = 0.8
/** It is held, and not just let go of: what was heard lately lies this close together. */
const STEADY = 0.01

/** Keys on one analog line, learnt by holding each: where each lies, and which lie too close. */
export function LearnKeys({ view, signalId }: { view: NodeView; signalId: string }) {
  const { node, catalog } = view
  const partId = node.design.signals[signalId]?.partId ?? ''
  const part = node.design.parts[partId]
  const kind = part && catalog.parts[part.kind]
  const [listening, setListening] = useState(false)
  const clock = useClock()
  const heard = useClosely((s) => s.heard[closelyKey(node.id, signalId)]) ?? NOTHING
  if (!part || !kind) return null
  const until = node.live.listening?.signals.includes(signalId) ? node.live.listening.until : null
  // What was heard before is not what is held now.
  const { samples } = listened(until !== null && Date.parse(until) > clock ? heard : NOTHING)
  const lastS = samples.at(-1)?.s ?? 0
  const lately = samples.flatMap((x) => (x.s > lastS - LAST_S && x.value !== null ? [x.value] : []))
  const now = lately.length > 0 ? scatterOf(lately).mean : null
  const steady = now !== null && Math.max(...lately) - Math.min(...lately) < STEADY
  const numbers = kind.channels.filter((c) => isKey(c.driver)).map((c) => c.id)
  const keys = inOrder(node.design.signals).filter((s) => s.value.partId === partId)
  const heardAt = (channel: string) => Number(part.settings[`share${numbers.indexOf(channel) + 1}`] ?? -1) / 100
  const set = (channel: string, share: number) =>
    edit(node.id, {
      kind: 'set-part',
      partId,
      setting: `share${numbers.indexOf(channel) + 1}`,
      value: share < 0 ? -1 : Number((100 * share).toFixed(2)),
    })
  const listen = async () => {
    forgetClosely(node.id, signalId)
    const a = await ask(`/api/nodes/${node.id}/close`, z.object({ kind: z.string() }), {
      signals: [signalId],
      everyMs: 50,
      forS: FOR_S,
    })
    if (a.kind !== 'ok') return say(a.error, 'refused')
    setListening(true)
  }
  const take = (channel: string) => {
    if (now === null) return
    const near = keys.find((k) => k.value.channel !== channel && heardTogether(heardAt(k.value.channel), now))
    if (near) return say(`${near.value.tag} was heard at the same place. Hold the other key.`, 'refused')
    set(channel, now)
  }
  const learnt = keys.filter((k) => heardAt(k.value.channel) >= 0).length
  return (
    <section aria-label="learn the keys" className="pt-3" data-learnt={learnt}>
      <h2>Where each key lies</h2>
      <p className="small soft">
        As sold they are told apart by their resistors as reckoned. Hold each key down and take what the line says: then
        the bounds lie in the middle between what was really heard. Learn all of them, or none counts.
      </p>
      <p role="status">
        {now === null ? (
          <Button onClick={() => void listen()}>{listening ? 'Listen again' : 'Listen to the line'}</Button>
        ) : (
          <>
            The line says <b data-share={now}>{(100 * now).toFixed(1)} %</b> of full scale
            {steady ? '.' : ': not steady.'}{' '}
            <Button variant="bare" onClick={() => void listen()}>
              listen again
            </Button>
          </>
        )}
      </p>
      <ul className="plain">
        {keys.map(({ id, value }) => {
          const at = heardAt(value.channel)
          return (
            <li key={id} data-key={value.slug}>
              <Ferrule signal={value} />
              &ensp;{value.name}{' '}
              <span className="soft">{at < 0 ? 'as reckoned' : `heard at ${(100 * at).toFixed(1)} %`}</span>{' '}
              <Button variant="quiet" disabled={!steady} onClick={() => take(value.channel)}>
                I hold {value.tag} now
              </Button>{' '}
              {at >= 0 && (
                <Button variant="bare" onClick={() => set(value.channel, -1)}>
                  as reckoned again
                </Button>
              )}
            </li>
          )
        })}
      </ul>
    </section>
  )
}
