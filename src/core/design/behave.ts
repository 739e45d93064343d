import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import { channelOf } from '../publish/describe'
import { PATTERNS, type Trigger } from '../nodefile/behaviour'
import type { Conditioning, Design, Signal } from './design'
import type { EditBody } from './edit'

type Step = Design | { refused: string; accepts: string }
const refuse = (refused: string, accepts: string): Step => ({ refused, accepts })

const channelOfId = (design: Design, catalog: Catalog, id: string): Channel | undefined => {
  const signal = design.signals[id]
  return signal && channelOf(design, catalog, signal)
}

/** Conditioning of a signal; an output can only follow a state of its own node. */
export function condition(
  design: Design,
  id: string,
  signal: Signal,
  set: { [K in keyof Conditioning]?: Conditioning[K] | undefined },
  catalog: Catalog,
): Step {
  const given = Object.fromEntries(Object.entries(set).filter(([, v]) => v !== undefined)) as Partial<Conditioning>
  const conditioning: Conditioning = { ...signal.conditioning, ...given }
  if (conditioning.atStart === 'follow') {
    const followed = conditioning.follows === null ? undefined : channelOfId(design, catalog, conditioning.follows)
    if (followed?.access !== 'state')
      return refuse('a power-up state of “follow” needs an input to follow', 'a contact or switch of this node')
  } else conditioning.follows = null
  return { ...design, signals: { ...design.signals, [id]: { ...signal, conditioning } } }
}

export function setRule(design: Design, edit: Extract<EditBody, { kind: 'set-rule' }>, catalog: Catalog): Step {
  const { [edit.ruleId]: known, ...others } = design.rules
  if (edit.rule === null)
    return known ? { ...design, rules: others } : refuse('this rule is no longer in the design', 'one that is')
  const { from, to, when } = edit.rule
  const source = channelOfId(design, catalog, from)
  const target = channelOfId(design, catalog, to)
  if (!source || !target) return refuse('a rule needs an input and an output of this node', 'signals of this node')
  if (target.access !== 'output')
    return refuse(`${design.signals[to]?.tag ?? to} is no output`, 'an output of this node')
  if (target.value === 'text')
    return refuse(
      `${design.signals[to]?.tag ?? to} shows a text: there is nothing to switch`,
      'an output that is on or off, a percentage or a colour',
    )
  if (!triggerFits(source, when))
    return refuse(`${design.signals[from]?.tag ?? from} never does that`, triggerWords(source))
  if (edit.rule.do === 'toggle' && target.value === 'colour')
    return refuse('this output cannot be toggled', 'true, false or a number')
  if (typeof edit.rule.do === 'number' && target.value !== 'percent')
    return refuse('this output takes no number', 'on, off or toggle')
  const pattern = typeof when === 'string' ? PATTERNS.find((p) => p === when) : undefined
  const signal = design.signals[from]
  // A press a rule waits for must be told at all.
  const signals =
    pattern && signal && !signal.conditioning.patterns.includes(pattern)
      ? {
          ...design.signals,
          [from]: {
            ...signal,
            conditioning: {
              ...signal.conditioning,
              patterns: PATTERNS.filter((p) => p === pattern || signal.conditioning.patterns.includes(p)),
            },
          },
        }
      : design.signals
  return { ...design, signals, rules: { ...design.rules, [edit.ruleId]: edit.rule } }
}

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

function triggerWords(source: Channel): string {
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

export function setGuard(design: Design, edit: Extract<EditBody, { kind: 'set-guard' }>, catalog: Catalog): Step {
  const { [edit.guardId]: known, ...others } = design.guards
  const { guard } = edit
  if (guard === null)
    return known ? { ...design, guards: others } : refuse('this guard is no longer in the design', 'one that is')
  const outputs = guard.kind === 'exclusive' ? guard.of : [guard.output]
  const wrong = outputs.find((id) => channelOfId(design, catalog, id)?.access !== 'output')
  if (wrong !== undefined) return refuse(`${design.signals[wrong]?.tag ?? wrong} is no output`, 'outputs of this node')
  // Of a text or a colour nobody can say whether it is on.
  const unclear = outputs.find((id) => {
    const c = channelOfId(design, catalog, id)
    return c?.access === 'output' && c.value !== 'on-off' && c.value !== 'percent'
  })
  if (unclear !== undefined)
    return refuse(
      `${design.signals[unclear]?.tag ?? unclear} is neither on nor off`,
      'outputs that are on or off, or a percentage',
    )
  if (guard.kind === 'exclusive' && new Set(guard.of).size !== guard.of.length)
    return refuse('an output cannot exclude itself', 'each output once')
  if (guard.kind === 'needs' && channelOfId(design, catalog, guard.input)?.access !== 'state')
    return refuse('what an output needs must be a state', 'a contact or switch of this node')
  return { ...design, guards: { ...design.guards, [edit.guardId]: guard } }
}
