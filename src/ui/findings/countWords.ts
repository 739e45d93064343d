/** `1 stop, 2 notes`. */
export function countWords(findings: readonly { severity: string }[]): string {
  const words = ['stop', 'fix', 'note'].flatMap((s) => {
    const n = findings.filter((f) => f.severity === s).length
    const ending = s === 'fix' ? 'es' : 's'
    return n > 0 ? [`${n} ${s}${n === 1 ? '' : ending}`] : []
  })
  return words.join(', ') || 'clear'
}
