import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { isFollowing } from '../../model/behaviour'
import { type Conditioning, conditioningChangeSchema, type Design, idSchema, type Signal } from '../../model/design'
import { channelOfId } from '../channelOfId'
import { designEdit } from '../designEdit'
import { fieldWords } from '../fieldWords'
import { tagOf } from '../names'
import { refuse, type Step, withSignal } from '../step'

const schema = z.strictObject({ kind: z.literal('condition'), signalId: idSchema, set: conditioningChangeSchema })

/** Some of what happens to a signal between driver and topic. */
export const condition = designEdit({
  schema,
  touches: ['signals'],
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
  if (isFollowing(conditioning.atStart)) {
    const followed = conditioning.follows === null ? undefined : channelOfId(design, catalog, conditioning.follows)
    if (followed?.access !== 'state')
      return refuse(
        `a power-up state of “${conditioning.atStart}” needs an input to follow`,
        'a contact or switch of this node',
      )
  } else conditioning.follows = null
  return { ...design, signals: { ...design.signals, [id]: { ...signal, conditioning } } }
}
