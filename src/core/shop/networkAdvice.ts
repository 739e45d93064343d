/** What is known of a network beside its short name. */
export interface NetworkFacts {
  name: string
  password: string
  hidden: boolean
  band: '2.4' | '5' | 'both'
}

export interface Advice {
  severity: 'stop' | 'fix' | 'note'
  words: string
}

/**
 * What small devices make of a network's name and password. `stop` never works, `fix` fails with some, `note` costs
 * something. Limits: IEEE 802.11 name 1 to 32 bytes; WPA passphrase 8 to 63 printable characters or 64 hexadecimal
 * digits.
 */
export function networkAdvice({ name, password, hidden, band }: NetworkFacts): Advice[] {
  const out: Advice[] = []
  const say = (severity: Advice['severity'], words: string) => out.push({ severity, words })
  const bytes = new TextEncoder().encode(name).length
  if (bytes === 0 || bytes > 32) say('stop', `A network’s name has 1 to 32 bytes; this one has ${bytes}.`)
  if (password !== '' && !(password.length === 64 && /^[0-9a-f]+$/i.test(password))) {
    if (password.length < 8 || password.length > 63)
      say(
        'stop',
        `A passphrase has 8 to 63 characters, or is a key of 64 hexadecimal digits; this one has ${password.length}.`,
      )
    if (/[^\x20-\x7e]/.test(password))
      say(
        'fix',
        'Characters outside plain ASCII are sent differently by different devices: some will not get in. Letters, digits and - _ . are safe everywhere.',
      )
    if (password.trim() !== password)
      say('fix', 'A blank at the beginning or end is easily lost when somebody types it into another device.')
  }
  if (password === '') say('fix', 'Without a password everybody nearby can read and switch what the nodes send.')
  if (/[^\x20-\x7e]/.test(name)) say('fix', 'A name outside plain ASCII is not found by some devices.')
  if (name.trim() !== name) say('fix', 'A blank at the beginning or end of the name is easily overlooked.')
  if (band === '5') say('stop', 'None of these chips hears 5 GHz: switch 2.4 GHz on, under the same name if you like.')
  if (hidden)
    say(
      'note',
      'A hidden name has to be asked for on every channel: joining takes one to three seconds longer, and a sleeping node pays for it from its cell each time.',
    )
  return out
}

/** What a secured line to the broker asks of a small device. */
export const CERTIFICATE_ADVICE: Advice = {
  severity: 'fix',
  words:
    'A node without a clock cannot tell whether a certificate is still valid: it needs the time before its first secured connection, or a certificate it has been given beforehand. About 30 kB of memory go along.',
}
