/** `slugFrom('Slip tank, left')` → `slip-tank-left`. Never empty, at most 40 characters, not in `taken`. */
export function slugFrom(text: string, taken: readonly string[] = []): string {
  const plain = text
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
  const base =
    plain
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 40) || 'unnamed'
  if (!taken.includes(base)) return base
  for (let n = 2; ; n++) {
    const tail = `-${n}`
    const candidate = base.slice(0, 40 - tail.length) + tail
    if (!taken.includes(candidate)) return candidate
  }
}
