import type { Sender, SenderSignal } from '../model/sender'
import type { Shop } from '../shop/shop'
import { availability, type BrokerAddress, CONTEXT, type ThingDescription } from './describe'
import { topicsOf } from './topics'

/**
 * A sender as a W3C Thing Description 1.1: its signals with the topics its receivers say them on. Whether it can be heard is
 * whether one of them is there. `receivers` are their short names, in order.
 */
export function describeSender(
  id: string,
  sender: Sender,
  shop: Shop,
  receivers: readonly string[],
  broker: BrokerAddress,
): ThingDescription {
  const topics = topicsOf(broker.root, sender.slug)
  const subscribe = (op: string, filter: string, retain: boolean) => ({
    href: `mqtt://${broker.host}:${broker.port}`,
    contentType: 'application/json',
    op,
    'mqv:controlPacket': 'subscribe',
    'mqv:filter': filter,
    'mqv:qos': '1',
    'mqv:retain': retain,
  })
  const all = Object.values(sender.signals).sort((a, b) => a.order - b.order)
  const properties = Object.fromEntries([
    ...all
      .filter((s) => s.kind !== 'event')
      .map((s) => [
        s.slug,
        {
          title: s.name,
          'vn:tag': sender.tag,
          ...stateWords(s),
          oneOf: [{ type: 'boolean' }, { type: 'null' }],
          readOnly: true,
          observable: true,
          forms: [subscribe('observeproperty', topics.signal(s.slug), true)],
        },
      ]),
    [
      'status',
      availability(receivers.map((slug) => subscribe('observeproperty', topicsOf(broker.root, slug).status, true))),
    ],
  ])
  const events = Object.fromEntries(
    all.flatMap((s) =>
      s.kind === 'event'
        ? [
            [
              s.slug,
              {
                title: s.name,
                'vn:tag': sender.tag,
                data: { type: 'string', enum: [...new Set(Object.values(s.words))].sort() },
                forms: [subscribe('subscribeevent', topics.signal(s.slug), false)],
              },
            ],
          ]
        : [],
    ),
  )
  return {
    '@context': CONTEXT,
    id: `urn:vivid-node:sender:${shop.id}:${id}`,
    title: sender.name,
    'vn:node': sender.slug,
    'vn:area': shop.places[sender.place ?? '']?.name ?? '',
    'vn:heardBy': [...receivers],
    securityDefinitions: { login: { scheme: 'basic', in: 'auto' } },
    security: 'login',
    properties,
    ...(Object.keys(events).length > 0 ? { events } : {}),
  }
}

function stateWords(s: Exclude<SenderSignal, { kind: 'event' }>): ThingDescription {
  if (s.kind === 'flag') return { 'vn:role': 'diagnostic', 'vn:quantity': s.role, 'vn:endsS': s.endS }
  return {
    'vn:role': 'main',
    'vn:quantity': 'state',
    'vn:words': { true: s.said.on, false: s.said.off },
    'vn:endsS': s.endS,
    'vn:endsAs': s.then === 'off' ? false : null,
  }
}
