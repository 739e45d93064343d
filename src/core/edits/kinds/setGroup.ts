import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, idSchema } from '../../model/design'
import { groupSchema } from '../../model/group'
import { groupFault } from '../../publish/groups'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('set-group'), groupId: idSchema, group: groupSchema.nullable() })
type Edit = z.infer<typeof schema>

/** Signals that are one entity together; null takes them apart. */
export const setGroup = designEdit({
  schema,
  touches: ['groups'],
  apply: groupSet,
  words: ({ group, groupId }, design) =>
    group === null
      ? `take “${design.groups[groupId]?.name ?? 'a group'}” apart`
      : `“${group.name}” is one ${group.kind}: ${Object.entries(group.roles)
          .map(([role, id]) => `${role} ${tagOf(design, id)}`)
          .join(', ')}`,
})

function groupSet(design: Design, { groupId, group }: Edit, catalog: Catalog): Step {
  const { [groupId]: known, ...others } = design.groups
  if (group === null)
    return known ? { ...design, groups: others } : refuse('this group is no longer in the design', 'one that is')
  const fault = groupFault(design, catalog, group)
  if (fault) return refuse(fault.refused, fault.accepts)
  const elsewhere = Object.values(others).find((g) =>
    Object.values(g.roles).some((id) => Object.values(group.roles).includes(id)),
  )
  if (elsewhere) return refuse(`a signal of it is in “${elsewhere.name}” already`, 'signals that are alone')
  return { ...design, groups: { ...design.groups, [groupId]: group } }
}
