import { type Design, RESERVED_SLUGS } from './design'
import { slugFrom } from './slug'

/** Short names no node may have: they are second levels of topics with a meaning of their own. */
export const RESERVED_NODES = ['product', 'mode', 'time'] as const

export const isReservedNode = (slug: string): boolean =>
  [...RESERVED_NODES, ...RESERVED_SLUGS].some((word) => word === slug)

/**
 * A design from before a word was reserved, with another name where it uses one, and what was renamed in words.
 * Rules, guards and calibrations go by id and stay. The same design when nothing collides.
 */
export function freeOfReserved(design: Design): { design: Design; said: string[] } {
  const said: string[] = []
  const taken = Object.values(design.signals).map((s) => s.slug)
  const signals = Object.fromEntries(
    Object.entries(design.signals).map(([id, s]) => {
      if (!RESERVED_SLUGS.some((word) => word === s.slug)) return [id, s] as const
      const slug = slugFrom(`${s.slug} of ${design.parts[s.partId]?.label ?? 'it'}`, [...taken, ...RESERVED_SLUGS])
      taken.push(slug)
      said.push(`${s.tag}: its topic ends in “${slug}” now; “${s.slug}” has got a meaning of its own there`)
      return [id, { ...s, slug }] as const
    }),
  )
  const slug = isReservedNode(design.slug) ? slugFrom(`${design.slug}-node`) : design.slug
  if (slug !== design.slug)
    said.push(`its short name is “${slug}” now; “${design.slug}” has got a meaning of its own in topics`)
  return said.length === 0 ? { design, said } : { design: { ...design, slug, signals }, said }
}
