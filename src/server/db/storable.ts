/** A text as the database can keep it: without the zero character, and with each half of a broken pair replaced. */
export function storableText(text: string): string {
  const whole = text.includes('\0') ? text.replaceAll('\0', '\uFFFD') : text
  return hasLoneSurrogate(whole) ? Buffer.from(whole, 'utf8').toString('utf8') : whole
}

/** The first character of a JSON value no database text can hold, in words; null when there is none. */
export function unstorableIn(value: unknown): string | null {
  // JSON text writes both as escapes; an even number of backslashes before one makes it plain letters.
  const found = /(?<!\\)(?:\\\\)*\\u(0000|d[89ab][0-9a-f]{2}|d[c-f][0-9a-f]{2})/i.exec(String(JSON.stringify(value)))
  if (!found) return null
  return found[1] === '0000' ? 'a zero character' : 'half of a character pair'
}

const hasLoneSurrogate = (text: string): boolean =>
  /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/.test(text)
