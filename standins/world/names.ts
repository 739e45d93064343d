/**
 * Answers one DNS question for an IPv4 address (RFC 1035); null where the name is not known here. Nothing else is
 * understood.
 */
export function nameAnswer(question: Buffer, known: Record<string, string>): Buffer | null {
  const labels: string[] = []
  let at = 12
  for (;;) {
    const n = question[at] ?? 0
    if (n === 0) break
    labels.push(question.subarray(at + 1, at + 1 + n).toString('latin1'))
    at += 1 + n
  }
  const ip = known[labels.join('.')]
  if (ip === undefined) return null
  const asked = question.subarray(12, at + 5)
  const head = Buffer.from([question[0] ?? 0, question[1] ?? 0, 0x81, 0x80, 0, 1, 0, 1, 0, 0, 0, 0])
  const record = Buffer.from([0xc0, 12, 0, 1, 0, 1, 0, 0, 0, 60, 0, 4, ...ip.split('.').map(Number)])
  return Buffer.concat([head, asked, record])
}
