/** What stands in place of what is nobody’s business. */
export const HIDDEN = '•••'

/** Names under which something secret stands, in whatever writing. */
const NAME =
  '(?:pass(?:word|wd|phrase|code)?|pwd|psk|secret|api[ _-]?key|auth[ _-]?key|key|token|credentials?|pin ?code)'

/**
 * What follows such a name up to the end of what is quoted, or to the end of the line where the quote never closes: a
 * text may be cut anywhere.
 */
const AFTER_NAME = [
  // "password": "…", 'psk': b'…', also escaped once more
  new RegExp(
    String.raw`(\b(?!KeyError|Keyboard)\w*?${NAME}\w*\\*["']?\s*[:=]\s*[bru]*\\*)(["'])(?:\\.|(?!\2)[^\\])*(\2|$)`,
    'gi',
  ),
  // password=…, key: …, PASSWORD …; to the next blank or comma
  new RegExp(String.raw`(\b(?!KeyError|Keyboard)\w*?${NAME}\w*\\*["']?\s*[:=]\s*)(?!["'•])([^\s,;&)}\]]+)`, 'gi'),
] as const
/** name:password@ in an address, also where it is cut off behind it; a port alone is none. */
const IN_ADDRESS = /(\b[a-z][a-z0-9+.-]{0,12}:\/\/[^\s:/@]*:)(?!\d{1,5}(?:[/\s]|$))[^\s@]*(@|$|(?=\s))/gi
/** A call that joins a network or logs in: all it is given but the first, the name. */
const IN_CALL = /(\b(?:connect|config|login|WLAN|MQTTClient)\s*\(\s*[bru]*(["']).*?\2\s*,)[^)]*/g
/** Bytes of a file on their way onto the board, as the prompt shows them; the file may be the one with the passwords. */
const WRITTEN = /(\.write\(\s*b?)(["'])(?:(?!\2).)*(\2|$)/g
/** Long strings of hexadecimal digits, and of base64 with all its kinds of letters, are keys as often as not. */
const LONG_HEX = /\b(?:0x)?[0-9a-f]{32,}\b/gi
const LONG_BASE64 = /(?=[A-Za-z0-9+/]*\d)(?=[A-Za-z0-9+/]*[A-Z])(?=[A-Za-z0-9+/]*[a-z])[A-Za-z0-9+/]{40,}={0,2}/g

/**
 * A line without what is secret in it: passwords and keys by their name, in addresses, in calls and in what is typed at
 * the prompt, long strings of digits, and the `known` ones wherever they stand.
 */
export function withoutSecrets(line: string, known: readonly string[] = []): string {
  let text = line
  // Longest first: one may be part of another.
  for (const secret of [...known].sort((a, b) => b.length - a.length))
    if (secret.length >= 4) text = text.split(secret).join(HIDDEN)
  text = text.replace(IN_ADDRESS, `$1${HIDDEN}$2`).replace(WRITTEN, `$1$2${HIDDEN}$3`)
  text = text.replace(IN_CALL, `$1 ${HIDDEN}`)
  for (const pattern of AFTER_NAME)
    text = text.replace(pattern, (_, before: string, second: string, third?: unknown) =>
      typeof third === 'string' ? `${before}${second}${HIDDEN}${third}` : `${before}${HIDDEN}`,
    )
  return text.replace(LONG_HEX, HIDDEN).replace(LONG_BASE64, HIDDEN)
}
