/**
 * A permanent id for a choice that was known by its words: `24 V AC of its own` → `24-v-ac-of-its-own`. Addresses stay
 * as they are.
 */
export function choiceIdFrom(label: string): string {
  if (/^0x[0-9A-F]{2}$/.test(label) || /^[a-z0-9-]{1,40}$/.test(label)) return label
  return (
    label
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 40)
      .replace(/-+$/, '') || 'choice'
  )
}
