'use client'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { learnStates, type StateSeen } from '@/core/calibration/learnStates'
import { scatterOf } from '@/core/calibration/scatter'
import type { Channel } from '@/core/catalog/part'
import type { Levels } from '@/core/catalog/levels'
import type { Signal } from '@/core/model/design'
import { unitFactor } from '@/core/units/convert'
import { fixed } from '@/core/units/format'
import { useClock } from '@/ui/live/useClock'
import { goneNow } from '@/ui/live/nowWords'
import { edit, newId } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useRecent, windowFor } from '@/ui/live/useRecent'
import { Field } from './traces/MarkList'

const MOST_WORDS = 5
/** What counts for a word: the readings of the last seconds, s. */
const TAKEN_S = 10
/** Words people begin with, by what is measured. */
const WORDS: Readonly<Record<string, readonly string[]>> = {
  moisture: ['dry', 'wet'],
  length: ['empty', 'full'],
  sound: ['quiet', 'loud'],
  light: ['dark', 'bright'],
}

interface LearnStatesProps {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Extract<Channel, { access: 'reading' }>
  onMade: (id: string) => void
}

/** A state learnt from what the reading is while each word is true: dry and wet, empty, half and full. */
export function LearnStates({ view, signalId, signal, channel, onMade }: LearnStatesProps) {
  const { unit, decimals, intervalS } = signal.publish
  const factor = unitFactor(channel.unit, unit)
  const [seen, setSeen] = useState<readonly StateSeen[]>([])
  const usual = WORDS[channel.quantity] ?? ['low', 'high']
  const [word, setWord] = useState<string | null>(null)
  const next = word ?? usual.find((w) => !seen.some((s) => s.word === w)) ?? ''
  const recent = useRecent(view.node.id, signalId, windowFor(intervalS, view.node.design.sleep?.everyS ?? 0))
  const clock = useClock()
  const lastAt = recent.at(-1)?.at ?? 0
  // What a node said before it went is no reading of now.
  const fresh = goneNow(view.node.live, clock) ? [] : recent.filter((r) => r.at > lastAt - TAKEN_S * 1000)
  const { n, mean, sd } = scatterOf(fresh.map((r) => r.value / factor))
  const step = 10 ** -decimals / factor
  const learnt = learnStates(seen, step)
  const shown = (v: number) => `${fixed(v * factor, decimals)} ${unit}`
  const take = () => {
    setSeen([...seen.filter((s) => s.word !== next), { word: next.trim(), mean, sd }])
    setWord(null)
  }
  const make = () => {
    if (learnt.kind === 'none') return
    const { words, cuts, band } = learnt
    const levels: Levels = {
      words,
      cuts: cuts.map((c) => Number(c.toPrecision(6))),
      band: Number(band.toPrecision(3)),
      holdS: words.map(() => 0),
      unknown: null,
      on: 1,
    }
    const id = newId()
    const name = `${signal.name} ${words.join(' or ')}`.slice(0, 60)
    if (edit(view.node.id, { kind: 'make-state', signalId: id, of: signalId, name, letter: 'S', levels })) onMade(id)
  }
  return (
    <details className="pt-2" data-states={seen.length}>
      <summary>Learn a state from what it reads</summary>
      <p className="small soft pt-1">
        Bring it into each state and take what it reads then, {TAKEN_S} s of it: the probe dry and then wet, the tank
        empty and then full.
      </p>
      <div className="d-flex gap-2 align-items-end flex-wrap">
        <Field id="learn-word" label="it is now" width={130} value={next} onChange={setWord} />
        <Button disabled={n === 0 || next.trim() === '' || seen.length >= MOST_WORDS} onClick={take}>
          Take it
        </Button>
        <span className="small soft" role="status">
          {n === 0
            ? 'Nothing is heard of it now.'
            : `${shown(mean)}${sd === null ? '' : ` ± ${fixed(sd * factor, decimals + 1)}`}, ${n} ${n === 1 ? 'reading' : 'readings'}`}
        </span>
      </div>
      <ul className="plain small">
        {seen.map((s) => (
          <li key={s.word}>
            {s.word}: {shown(s.mean)}
            {s.sd !== null && ` ± ${fixed(s.sd * factor, decimals + 1)}`}{' '}
            <Button variant="bare" onClick={() => setSeen(seen.filter((x) => x !== s))}>
              leave it out
            </Button>
          </li>
        ))}
      </ul>
      {seen.length > 1 &&
        (learnt.kind === 'none' ? (
          <p role="alert">Nothing can be made of this: {learnt.reason}.</p>
        ) : (
          <p data-cut={learnt.cuts[0]}>
            {learnt.words.map((w, i) => (i === 0 ? w : `${w} from ${shown(learnt.cuts[i - 1] ?? 0)}`)).join(', ')}, band{' '}
            {shown(learnt.band)}; of a thousand readings at most{' '}
            {(1000 * Math.max(...learnt.wrong)).toFixed(Math.max(...learnt.wrong) < 1e-4 ? 3 : 1)} fall on the wrong
            side. <Button onClick={make}>Make a state of it</Button>
          </p>
        ))}
    </details>
  )
}
