import { patternsOf, type Sender } from './sender'
import { type Family, positionsOf } from '../radio/subghz/family'

/** Codes that may be said for one thing. */
export interface Codes {
  /** What they do, in words. */
  words: string
  on: string
  /** null: one code alone. */
  off: string | null
}

/** What a sender that has been learnt says, as codes another may say in its place; none that are only known in part. */
export function codesOfSender(sender: Sender): Codes[] {
  const whole = (pattern: string) => !pattern.includes('.')
  return Object.values(sender.signals)
    .sort((a, b) => a.order - b.order)
    .flatMap((signal): Codes[] => {
      if (!patternsOf(signal).every(whole)) return []
      if (signal.kind === 'state')
        return [
          {
            words: `${signal.said.on}, ${signal.off === null ? 'one code' : signal.said.off}`,
            on: signal.on,
            off: signal.off,
          },
        ]
      if (signal.kind === 'event')
        return Object.entries(signal.words).map(([on, word]) => ({ words: word, on, off: null }))
      return []
    })
}

/**
 * Codes nobody has yet: an address at random that differs from every one in `taken`, and a command for each of on and off
 * where `two` are wanted. A far thing learns them by its own button.
 */
export function madeCodes(family: Family, taken: readonly string[], two: boolean, random: () => number): Codes {
  const states = family.open ? '01f' : '01'
  const described = positionsOf(family, 'command')
  // Where nobody has said which bits are the command, the last two.
  const command = described.length > 0 ? described : [family.bits - 2, family.bits - 1]
  const pick = () => states[Math.floor(random() * states.length)] ?? '0'
  for (;;) {
    const code = Array.from({ length: family.bits }, pick)
    const said = (bits: readonly string[]) => code.map((bit, i) => bits[command.indexOf(i)] ?? bit).join('')
    const on = said(command.map((_, i) => (i === command.length - 1 ? '1' : '0')))
    const off = said(command.map((_, i) => (i === command.length - 1 ? '0' : '1')))
    const own = (c: string) => [...c].filter((_, i) => !command.includes(i)).join('')
    if (!taken.some((c) => c.length === family.bits && own(c) === own(on)))
      return { words: 'made up', on, off: two ? off : null }
  }
}
