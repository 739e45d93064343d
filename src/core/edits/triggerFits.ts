import type { Channel } from '../catalog/part'
import { PATTERNS, type Trigger } from '../model/behaviour'

/** What this input can do, as far as rules go. */
export function triggerFits(source: Channel, when: Trigger): boolean {
  switch (source.access) {
    case 'event':
      return (
        typeof when === 'string' &&
        (source.driver === 'encoder'
          ? when === 'left' || when === 'right'
          : source.driver !== 'radio' && when !== 'left' && when !== 'right')
      )
    case 'state':
      return typeof when === 'boolean'
    case 'reading':
      return when === null || (typeof when === 'object' && ('above' in when || 'below' in when))
    case 'output':
      return typeof when === 'boolean'
  }
}

export function triggerWords(source: Channel): string {
  switch (source.access) {
    case 'event':
      return source.driver === 'encoder'
        ? 'left or right'
        : source.driver === 'radio'
          ? 'nothing: what it hears is not decoded on the node'
          : PATTERNS.join(', ')
    case 'state':
    case 'output':
      return 'true or false'
    case 'reading':
      return 'a value it rises above or falls below, or unknown'
  }
}
