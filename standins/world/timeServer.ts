/** Seconds from the beginning of 1900, where the count of NTP begins, to 1970. */
const TO_1970 = 2_208_988_800

/**
 * Answers one question by SNTP (RFC 4330) with the time `atMs`, ms since 1970; null where it is no question. The count
 * of seconds begins anew in February 2036, as the standard has it.
 */
export function timeAnswer(question: Buffer, atMs: number): Buffer | null {
  if (question.length < 48 || ((question[0] ?? 0) & 7) !== 3) return null
  const answer = Buffer.alloc(48)
  answer.set([0x24, 2, 6, 0xec])
  // What the asker sent as its own time comes back as the origin.
  question.copy(answer, 24, 40, 48)
  for (const at of [16, 32, 40]) {
    answer.writeUInt32BE((Math.floor(atMs / 1000) + TO_1970) % 2 ** 32, at)
    answer.writeUInt32BE(Math.floor(((atMs % 1000) / 1000) * 2 ** 32), at + 4)
  }
  return answer
}
