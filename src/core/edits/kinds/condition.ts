import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import type { Channel } from '../../catalog/part'
import { isFollowing } from '../../model/behaviour'
import { type Conditioning, conditioningChangeSchema, type Design, idSchema, type Signal } from '../../model/design'
import { saysFault } from '../../model/says'
import { channelOfId, isTwoWayState } from '../channelOfId'
import { designEdit } from '../designEdit'
import { fieldWords } from '../fieldWords'
import { tagOf } from '../names'
import { refuse, type Step, withSignal } from '../step'
import { triggerFits, triggerWords } from '../triggerFits'

const schema = z.strictObject({ kind: z.literal('condition'), signalId: idSchema, set: conditioningChangeSchema })

/** Some of what happens to a signal between driver and topic. */
export const condition = designEdit({
  schema,
  touches: ['signals', 'rules'],
  apply: (design, edit, catalog) =>
    withSignal(design, edit.signalId, (s) => conditioned(design, edit.signalId, s, edit.set, catalog)),
  words: (edit, design) =>
    `${fieldWords(design.signals[edit.signalId]?.conditioning ?? {}, edit.set, (id) => tagOf(design, id))} on ${tagOf(design, edit.signalId)}`,
})

/** Conditioning of a signal; an output can only follow a state of its own node. */
function conditioned(
  design: Design,
  id: string,
  signal: Signal,
  set: { [K in keyof Conditioning]?: Conditioning[K] | undefined },
  catalog: Catalog,
): Step {
  const given = Object.fromEntries(
    Object.entries<unknown>(set).filter(([, v]) => v !== undefined),
  ) as Partial<Conditioning>
  const conditioning: Conditioning = { ...signal.conditioning, ...given }
  if ((conditioning.levels === null) !== (signal.of === null))
    return refuse(
      signal.of === null ? `${signal.tag} is made of no reading` : `${signal.tag} needs its words`,
      signal.of === null ? 'a state that is made of one' : 'words and what parts them',
    )
  const unsaid = whyNotSaid(conditioning, channelOfId(design, catalog, id))
  if (unsaid) return refuse(`${signal.tag}: ${unsaid.refused}`, unsaid.accepts)
  if (isFollowing(conditioning.atStart)) {
    const followed = conditioning.follows === null ? undefined : channelOfId(design, catalog, conditioning.follows)
    if (!isTwoWayState(followed))
      return refuse(
        `a power-up state of “${conditioning.atStart}” needs an input to follow`,
        'a contact or switch of this node',
      )
  } else conditioning.follows = null
  const next = { ...design, signals: { ...design.signals, [id]: { ...signal, conditioning } } }
  return conditioning.levels && signal.conditioning.levels !== conditioning.levels
    ? withWords(next, id, signal.conditioning.levels?.words ?? [], conditioning.levels.words, catalog)
    : next
}

/** Codes are said by a transmitter alone, and not all of them. */
function whyNotSaid({ says }: Conditioning, channel: Channel | undefined): { refused: string; accepts: string } | null {
  if (says === null) return null
  return channel?.driver === 'transmitter'
    ? saysFault(says)
    : { refused: 'it is no transmitter', accepts: 'an output that is switched by radio' }
}

/** A state with other words: rules that wait for one go along with its new name; what would wait in vain is said. */
function withWords(
  design: Design,
  id: string,
  before: readonly string[],
  after: readonly string[],
  catalog: Catalog,
): Step {
  const channel = channelOfId(design, catalog, id)
  if (!channel) return design
  const renamed = (is: string) => (before.length === after.length ? (after[before.indexOf(is)] ?? is) : is)
  const rules = { ...design.rules }
  for (const [ruleId, rule] of Object.entries(design.rules)) {
    if (rule.from !== id) continue
    const { when } = rule
    const now = typeof when === 'object' && when !== null && 'is' in when ? { is: renamed(when.is) } : when
    if (!triggerFits(channel, now))
      return refuse(
        `a rule waits for ${design.signals[id]?.tag} to be “${typeof now === 'object' && now !== null && 'is' in now ? now.is : String(now)}”, which it would never be again`,
        `dropping that rule first, or words it can wait for: ${triggerWords(channel)}`,
      )
    rules[ruleId] = { ...rule, when: now }
  }
  const needed =
    Object.values(design.guards).some((g) => g.kind === 'needs' && g.input === id) ||
    Object.values(design.signals).some((s) => s.conditioning.follows === id)
  return needed && !isTwoWayState(channel)
    ? refuse(
        `an output goes by ${design.signals[id]?.tag} being true or false`,
        'two words, or dropping that guard or power-up state first',
      )
    : { ...design, rules }
}
