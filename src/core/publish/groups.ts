import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import type { Design } from '../model/design'
import { byId, inOrder } from '../model/design'
import type { DesignGroup, GroupKind } from '../model/group'
import { channelOf } from './channelOf'

/** What a signal has to be to have a role. */
interface Role {
  access: Channel['access']
  /** Quantities it may be of; absent: any. */
  quantities?: readonly string[]
  /** Of an output: what it takes. */
  value?: 'on-off' | 'percent' | 'colour' | 'text'
}

interface Kind {
  name: string
  roles: Record<string, Role>
  /** Roles without which it is none. */
  needs: readonly string[]
}

const state: Role = { access: 'state' }
const onOff: Role = { access: 'output', value: 'on-off' }
const percent: Role = { access: 'output', value: 'percent' }
const reading = (...quantities: string[]): Role => ({ access: 'reading', quantities })

/** Kinds of entities that have parts, and what each part has to be. */
export const GROUP_ROLES: Record<GroupKind, Kind> = {
  door: {
    name: 'door or window',
    roles: { open: state, locked: state, tamper: state, lock: onOff, battery: reading('supply') },
    needs: ['open'],
  },
  cover: {
    name: 'cover or gate',
    roles: { position: percent, up: onOff, down: onOff, open: state, closed: state },
    needs: [],
  },
  lamp: {
    name: 'lamp',
    roles: {
      on: onOff,
      level: percent,
      cold: percent,
      warm: percent,
      red: percent,
      green: percent,
      blue: percent,
      colour: { access: 'output', value: 'colour' },
    },
    needs: [],
  },
  meter: {
    name: 'meter',
    roles: {
      power: reading('power'),
      voltage: reading('voltage'),
      current: reading('current'),
      flow: reading('flow'),
      volume: reading('volume'),
    },
    needs: [],
  },
  switch: {
    name: 'switch with what it tells',
    roles: { switch: onOff, runs: state, power: reading('power'), current: reading('current') },
    needs: ['switch'],
  },
  climate: {
    name: 'climate',
    roles: { temperature: reading('temperature'), humidity: reading('humidity'), pressure: reading('pressure') },
    needs: ['temperature'],
  },
  tank: {
    name: 'tank',
    roles: { level: reading('length'), full: state, fill: onOff, temperature: reading('temperature') },
    needs: ['level'],
  },
  air: {
    name: 'air',
    roles: {
      concentration: reading('concentration'),
      temperature: reading('temperature'),
      humidity: reading('humidity'),
    },
    needs: [],
  },
}

/** True when a channel can have a role. */
export function fitsRole(channel: Channel | undefined, { access, quantities, value }: Role): boolean {
  if (channel?.access !== access) return false
  if (quantities && !quantities.includes(channel.quantity)) return false
  return value === undefined || (channel.access === 'output' && channel.value === value)
}

/** Why these roles are no entity of this kind, and what would be; null where they are. */
export function groupFault(
  design: Design,
  catalog: Catalog,
  { kind, roles }: Pick<DesignGroup, 'kind' | 'roles'>,
): { refused: string; accepts: string } | null {
  const of = GROUP_ROLES[kind]
  const given = Object.entries(roles)
  if (given.length < 2) return { refused: 'one signal is an entity by itself', accepts: 'at least two signals' }
  if (new Set(Object.values(roles)).size < given.length)
    return { refused: 'a signal cannot have two roles', accepts: 'each signal once' }
  for (const [role, id] of given) {
    const wanted = of.roles[role]
    if (!wanted) return { refused: `a ${of.name} has no “${role}”`, accepts: Object.keys(of.roles).join(', ') }
    const signal = design.signals[id]
    const channel = signal && channelOf(design, catalog, signal)
    if (!fitsRole(channel, wanted))
      return { refused: `${signal?.tag ?? id} cannot be the ${role} of a ${of.name}`, accepts: wordsOf(wanted) }
  }
  const missing = of.needs.find((r) => !(r in roles))
  return missing === undefined ? null : { refused: `a ${of.name} needs its “${missing}”`, accepts: 'a signal for it' }
}

const wordsOf = ({ access, quantities, value }: Role): string =>
  [
    access === 'output' ? 'an output' : `a ${access}`,
    value && `that takes ${value}`,
    quantities && `of ${quantities.join(' or ')}`,
  ]
    .filter(Boolean)
    .join(' ')

export type Group = DesignGroup & { id: string }

/** Groups with what of them is offered: parts that are no entities are left out, and a group of fewer than two. */
export function offeredGroups(design: Design): Group[] {
  return byId(design.groups).flatMap(({ id, value }) => {
    const roles = Object.fromEntries(
      Object.entries(value.roles).filter(([, s]) => design.signals[s]?.publish.entity === true),
    )
    return Object.keys(roles).length < 2 ? [] : [{ id, ...value, roles }]
  })
}

/** A group as the announcement tells it. */
export function groupTold(design: Design, { id, kind, name, roles }: Group) {
  const parts = Object.fromEntries(Object.entries(roles).map(([role, s]) => [role, design.signals[s]?.slug ?? '']))
  return { id, kind, title: name, parts }
}

/** Groups that would belong together and are none yet: signals of one part, or of parts of one label, that fit a kind. */
export function proposedGroups(design: Design, catalog: Catalog): DesignGroup[] {
  const taken = new Set(Object.values(design.groups).flatMap((g) => Object.values(g.roles)))
  const byPart = new Map<string, string[]>()
  for (const { id, value } of inOrder(design.signals))
    if (!taken.has(id) && value.publish.entity) byPart.set(value.partId, [...(byPart.get(value.partId) ?? []), id])
  return [...byPart].flatMap(([partId, ids]): DesignGroup[] => {
    const best = bestKind(design, catalog, ids)
    return best === null ? [] : [{ ...best, name: design.parts[partId]?.label ?? best.kind }]
  })
}

/** Kinds that are told by what their parts measure; what a dimmer or a contact is for only a person knows. */
const PROPOSED: readonly GroupKind[] = ['climate', 'meter', 'tank', 'air']

/** The kind that takes the most of these signals, at least two; null where none does. */
function bestKind(design: Design, catalog: Catalog, ids: readonly string[]): Omit<DesignGroup, 'name'> | null {
  let best: Omit<DesignGroup, 'name'> | null = null
  for (const kind of PROPOSED) {
    const roles: Record<string, string> = {}
    const left = [...ids]
    for (const [role, wanted] of Object.entries(GROUP_ROLES[kind].roles)) {
      const at = left.findIndex((id) => {
        const signal = design.signals[id]
        return signal && fitsRole(channelOf(design, catalog, signal), wanted)
      })
      if (at >= 0) roles[role] = left.splice(at, 1)[0] ?? ''
    }
    const more = Object.keys(roles).length > Object.keys(best?.roles ?? {}).length
    if (more && groupFault(design, catalog, { kind, roles }) === null) best = { kind, roles }
  }
  return best
}
