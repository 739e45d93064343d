'use client'
import { Button } from 'react-bootstrap'
import type { Channel } from '@/core/catalog/part'
import { inOrder } from '@/core/model/design'
import { type Levels, levelsWords } from '@/core/catalog/levels'
import { unitFactor } from '@/core/units/convert'
import { edit, newId } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule } from '@/ui/thread/Ferrule'

interface Proposed {
  name: string
  slug?: string
  letter: string
  levels: Levels
}

/** States that are made of a reading, those its part proposes, and one of two plain words to begin with. */
export function StatesOf({
  view,
  signalId,
  channel,
  onPick,
}: {
  view: NodeView
  signalId: string
  channel: Extract<Channel, { access: 'reading' }>
  onPick: (id: string) => void
}) {
  const { id, design } = view.node
  const source = design.signals[signalId]
  if (!source) return null
  const factor = unitFactor(channel.unit, source.publish.unit)
  const made = inOrder(design.signals).filter((s) => s.value.of === signalId)
  const { mountM } = source.conditioning
  const middle = mountM === null ? (channel.range.min + channel.range.max) / 2 : mountM / 2
  // What the part proposes is of its own reading; a height over the empty level is something else.
  const proposed = mountM === null ? (channel.states ?? []) : []
  const plain: Proposed = {
    name: `${source.name} state`,
    letter: 'S',
    levels: { words: ['low', 'high'], cuts: [middle], band: 0, holdS: [0, 0], unknown: null, on: 1 },
  }
  const make = ({ name, slug, letter, levels }: Proposed) => {
    const state = newId()
    const taken = Object.values(design.signals).some((s) => s.slug === slug)
    const named = slug === undefined || taken ? {} : { slug }
    if (edit(id, { kind: 'make-state', signalId: state, of: signalId, name, letter, levels, ...named })) onPick(state)
  }
  const shown = (levels: Levels) =>
    levelsWords(levels, (cut) => `${Number((cut * factor).toPrecision(6))} ${source.publish.unit}`)
  const isMade = (p: Proposed) => made.some((s) => `${s.value.conditioning.levels?.words}` === `${p.levels.words}`)
  return (
    <section aria-label="states made of it" className="pt-3">
      <h2>States made of {source.tag}</h2>
      <p className="small soft">
        A state says in words what the reading means. The node makes it itself: its rules can wait for it, and it is
        told like any other signal.
      </p>
      <ul className="plain">
        {made.map(({ id: stateId, value }) => (
          <li key={stateId} data-made={value.slug}>
            <Ferrule signal={value} />
            &ensp;{value.name}{' '}
            <span className="soft">{value.conditioning.levels && shown(value.conditioning.levels)}</span>{' '}
            <Button variant="bare" onClick={() => onPick(stateId)}>
              set its words
            </Button>
          </li>
        ))}
        {[...proposed, plain]
          .filter((p) => !isMade(p))
          .map((p) => (
            <li key={p.name}>
              <Button variant="quiet" onClick={() => make(p)}>
                Make {p.name}
              </Button>{' '}
              <span className="soft">{shown(p.levels)}</span>
            </li>
          ))}
      </ul>
    </section>
  )
}
