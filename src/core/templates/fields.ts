import type { SheetRow } from '../publish/entitySheet'
import { offeredGroups } from '../publish/groups'
import { fullName } from '../publish/sheetFaults'
import { topicsOf } from '../publish/topics'
import type { SheetNode } from '../publish/entitySheet'

/** What a template can say of an entity. Texts, numbers and lists; null becomes nothing. */
export interface EntityFields {
  id: string
  name: string
  full_name: string
  slug: string
  access: string
  kind: string
  unit: string
  decimals: number | null
  words: string[]
  role: string
  topic: string
  set_topic: string
  done_topic: string
  gone_after_s: number
  every_s: number
  group: string
  group_kind: string
  group_role: string
}
export interface NodeFields {
  id: string
  name: string
  slug: string
  place: string
  status_topic: string
  health_topic: string
  groups: { id: string; kind: string; name: string; parts: Record<string, string> }[]
}

export function entityFields(row: SheetRow): EntityFields {
  const { group } = row
  return {
    id: row.entityId,
    name: row.name,
    full_name: fullName(row),
    slug: row.signal.slug,
    access: row.access,
    kind: row.kind,
    unit: row.unit,
    decimals: row.decimals,
    words: row.words ?? [],
    role: row.role,
    topic: row.topic,
    set_topic: row.set ?? '',
    done_topic: row.set === null ? '' : `${row.topic}/done`,
    gone_after_s: row.goneAfterS,
    every_s: row.freshS,
    group: group?.name ?? '',
    group_kind: group?.kind ?? '',
    group_role: group?.role ?? '',
  }
}

export function nodeFields({ design, place }: SheetNode, root: string): NodeFields {
  const topics = topicsOf(root, design.slug)
  return {
    id: `urn:uuid:${design.id}`,
    name: design.name,
    slug: design.slug,
    place: place ?? '',
    status_topic: topics.status,
    health_topic: topics.health,
    groups: offeredGroups(design).map(({ id, kind, name, roles }) => ({
      id,
      kind,
      name,
      parts: Object.fromEntries(Object.entries(roles).map(([role, s]) => [role, design.signals[s]?.slug ?? ''])),
    })),
  }
}
