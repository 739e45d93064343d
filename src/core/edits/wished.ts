import type { PartKind } from '../catalog/part'
import { wordsOf } from '../catalog/searchParts'
import type { EditBody } from './edit'

/** Somebody who asks for one of these wants how full something is, not how far away. */
const LEVEL = ['level', 'tank', 'full', 'fill', 'filling', 'cistern', 'well']

/** Words that stand in many choices and say nothing of the load. */
const IDLE = ['one', 'way', 'of', 'a', 'up', 'to', 'v', 'or', 'with', 'load', 'nothing', 'yet', '24']

type AddPart = Extract<EditBody, { kind: 'add-part' }>

/**
 * What the words somebody asked with say beyond the part itself, as edits after `add`: a distance asked for as a level
 * is one, and what a contact is to switch is set where it was named. Without such words a part comes as it is.
 */
export function wishedEdits(kind: PartKind, add: AddPart, wish: string): EditBody[] {
  const words = wordsOf(wish)
  const edits: EditBody[] = []
  if (words.some((w) => LEVEL.includes(w)))
    for (const signal of add.signals) {
      const channel = kind.channels.find((c) => c.id === signal.channel)
      if (channel?.access === 'reading' && channel.proposes.geometry === 'level')
        edits.push({ kind: 'condition', signalId: signal.id, set: { mountM: 1 } })
    }
  for (const setting of kind.settings) {
    if (!('choices' in setting)) continue
    // A word that fits two of them – a door has a strike, or is a gate – is left to the person.
    const [named, ...more] = setting.choices.filter(
      (c) => c.means?.load && wordsOf(c.label).some((w) => !IDLE.includes(w) && words.includes(w)),
    )
    if (named && more.length === 0 && named.id !== setting.default)
      edits.push({ kind: 'set-part', partId: add.partId, setting: setting.id, value: named.id })
  }
  return edits
}

/** The name a signal gets in these words: a level where one was asked for, else what the part proposes. */
export function wishedName(channel: PartKind['channels'][number], wish: string): string {
  const level = channel.access === 'reading' && channel.proposes.geometry === 'level'
  return level && wordsOf(wish).some((w) => LEVEL.includes(w)) ? 'level' : channel.proposes.slug
}
