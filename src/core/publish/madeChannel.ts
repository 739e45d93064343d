import type { Channel } from '../catalog/part'
import { isTwoWay, type Levels } from '../catalog/levels'

/** What a state made of a reading is to everybody else: a state of the same part. */
export function madeChannel(source: Channel, levels: Levels | null): Channel {
  const words = levels?.words ?? []
  const [on, off] = levels?.on === 0 ? [words[0], words[1]] : [words[1], words[0]]
  return {
    id: source.id,
    name: source.name,
    lines: source.lines,
    quantity: 'state',
    unit: '',
    access: 'state',
    driver: 'levels',
    activeLevel: 'high',
    words: { on: on ?? 'on', off: off ?? 'off' },
    ...(levels && !isTwoWay(levels) ? { told: words } : {}),
    proposes: {
      slug: source.proposes.slug,
      letter: source.proposes.letter,
      unit: '',
      decimals: 0,
      intervalS: 600,
      debounceMs: 0,
    },
  }
}
