/** Does this MQTT filter select the topic? `+` stands for one level, `#` at the end for all below, itself included. */
export function matches(filter: string, topic: string): boolean {
  if (filter === topic) return true
  if (!filter.includes('+') && !filter.endsWith('#')) return false
  const [want, have] = [filter.split('/'), topic.split('/')]
  // What begins with a dollar is selected by no filter that begins with a wildcard.
  if (topic.startsWith('$') && (want[0] === '+' || want[0] === '#')) return false
  for (const [i, level] of want.entries()) {
    if (level === '#') return true
    if (i >= have.length || (level !== '+' && level !== have[i])) return false
  }
  return want.length === have.length
}

/** Does `wide` select everything that `filter` selects? */
export function isCovered(filter: string, wide: string): boolean {
  const [want, have] = [wide.split('/'), filter.split('/')]
  for (const [i, level] of want.entries()) {
    if (level === '#') return true
    const own = have[i]
    if (own === undefined || own === '#' || (level !== '+' && level !== own)) return false
  }
  return want.length === have.length
}
