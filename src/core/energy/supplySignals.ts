import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../model/design'
import { channelOf } from '../publish/channelOf'

/** Ids of the signals that tell what feeds the node and how warm it is there; null where it tells no voltage. */
export function supplySignals(design: Design, catalog: Catalog): { volts: string; temperature: string | null } | null {
  const of = (quantity: string) =>
    inOrder(design.signals).find(
      (s) => s.value.of === null && channelOf(design, catalog, s.value)?.quantity === quantity,
    )?.id ?? null
  const volts = of('supply')
  return volts === null ? null : { volts, temperature: of('temperature') }
}
