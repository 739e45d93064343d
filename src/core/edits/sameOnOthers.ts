import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import { isFollowing } from '../model/behaviour'
import { byId, type Conditioning, type Design, inOrder, type Signal } from '../model/design'
import { channelOf } from '../publish/channelOf'
import type { EditBody } from './edit'

/**
 * What is of one signal alone and never given to others: a mounting height, the input an output follows, the words of a
 * state, what is said on the air.
 */
const OWN: readonly (keyof Conditioning)[] = ['mountM', 'follows', 'levels', 'says']

/**
 * Edits that make every signal of the same kind as this one conditioned and published as it is. Of the same kind is a
 * signal with the same driver, access and unit; those that are so already are left alone.
 */
export function sameOnOthers(design: Design, catalog: Catalog, signalId: string): EditBody[] {
  const model = design.signals[signalId]
  const channel = model && channelOf(design, catalog, model)
  if (!model || !channel) return []
  return inOrder(design.signals).flatMap(({ id, value }) => {
    const other = channelOf(design, catalog, value)
    if (id === signalId || !other || !alike(channel, other)) return []
    const set = conditioningSet(model, value)
    const publish = publishSet(model, value)
    return [
      ...(Object.keys(set).length > 0 ? [{ kind: 'condition' as const, signalId: id, set }] : []),
      ...(Object.keys(publish).length > 0 ? [{ kind: 'publish' as const, signalId: id, set: publish }] : []),
    ]
  })
}

const alike = (a: Channel, b: Channel): boolean => a.driver === b.driver && a.access === b.access && a.unit === b.unit
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)

function conditioningSet(model: Signal, other: Signal): Partial<Conditioning> {
  // What follows an input follows its own, or none.
  const followed = isFollowing(model.conditioning.atStart) || isFollowing(other.conditioning.atStart)
  return Object.fromEntries(
    Object.entries(model.conditioning).filter(
      ([key, value]) =>
        !OWN.includes(key as keyof Conditioning) &&
        !(followed && key === 'atStart') &&
        !same(value, other.conditioning[key as keyof Conditioning]),
    ),
  )
}

const publishSet = ({ publish: model }: Signal, { publish: other }: Signal): Partial<Signal['publish']> =>
  Object.fromEntries(Object.entries(model).filter(([key, value]) => !same(value, other[key as keyof typeof other])))

/** Rules in an order that does not change: by the signal they wait for, then by what they act on. */
export function rulesInOrder(design: Design): ReturnType<typeof byId<Design['rules'][string]>> {
  const at = (id: string) => design.signals[id]?.order ?? Infinity
  return byId(design.rules).sort((a, b) => at(a.value.from) - at(b.value.from) || at(a.value.to) - at(b.value.to))
}
