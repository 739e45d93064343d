import { traitsOf } from '../catalog/drivers'
import type { Channel } from '../catalog/part'
import { PATTERNS, type Trigger } from '../model/behaviour'

/** Words of a node's own events that rules can wait for. What is heard on the air is not decoded on the node. */
function pressesOf(source: Extract<Channel, { access: 'event' }>): readonly string[] {
  const { tells } = traitsOf(source.driver)
  if (tells === 'presses') return PATTERNS
  return source.driver === 'radio' ? [] : (tells ?? [])
}

const isUnknown = (when: Trigger): boolean => when === null || when === 'gone'

/** What this input can do, as far as rules go. */
export function triggerFits(source: Channel, when: Trigger): boolean {
  switch (source.access) {
    case 'event':
      return typeof when === 'string' && pressesOf(source).includes(when)
    case 'output':
      return typeof when === 'boolean'
    case 'state':
      if (isUnknown(when)) return true
      return source.told
        ? typeof when === 'object' && when !== null && 'is' in when && source.told.includes(when.is)
        : typeof when === 'boolean'
    case 'reading':
      return isUnknown(when) || (typeof when === 'object' && when !== null && !('is' in when) && !('says' in when))
  }
}

export function triggerWords(source: Channel): string {
  switch (source.access) {
    case 'event':
      return pressesOf(source).join(', ') || 'nothing: what it hears is not decoded on the node'
    case 'output':
      return 'true or false'
    case 'state':
      return `${source.told?.join(', ') ?? 'true, false'}, unknown or gone`
    case 'reading':
      return 'a value it rises above or falls below, unknown or gone'
  }
}

/** What a rule can wait for, besides values: words of an event. */
export const triggersOf = (source: Channel): readonly string[] => (source.access === 'event' ? pressesOf(source) : [])
