import { type Design, RESERVED_SLUGS } from '../model/design'
import { slugFrom } from '../model/slug'
import { refuse, type Step } from './step'

/** Why a signal may not have this topic level; null when it may. */
export function slugClash(design: Design, signalId: string, slug: string): Step | null {
  if ((RESERVED_SLUGS as readonly string[]).includes(slug))
    return refuse(
      `“${slug}” has a meaning of its own in the topics of a node`,
      `any name but ${RESERVED_SLUGS.join(', ')}`,
    )
  const other = Object.entries(design.signals).find(([id, s]) => id !== signalId && s.slug === slug)
  return other
    ? refuse(
        `“${slug}” is the topic of ${other[1].tag} already`,
        slugFrom(
          slug,
          Object.values(design.signals).map((s) => s.slug),
        ),
      )
    : null
}
