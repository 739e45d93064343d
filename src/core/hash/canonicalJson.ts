/** JSON with object keys sorted and no white space: equal values give equal text. `undefined` members are left out. */
export function canonicalJson(value: unknown): string {
  return JSON.stringify(value, (_key, v: unknown) =>
    typeof v === 'object' && v !== null && !Array.isArray(v)
      ? Object.fromEntries(
          Object.entries(v).sort(([a], [b]) => {
            if (a < b) return -1
            if (a > b) return 1
            return 0
          }),
        )
      : v,
  )
}
