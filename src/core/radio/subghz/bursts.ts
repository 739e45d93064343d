import { type Frame, readFrame } from './decode'
import { type FamilyFigures, MOST_BITS } from './family'

/** Frames of one code that follow each other within this are one burst, ms. */
export const BURST_MS = 600
/** Codes in the air at the same time that are kept apart. */
const SLOTS = 4

/** A code that has been heard twice alike: once a burst. */
export interface Burst {
  /** Which of the families, counted from nought. */
  family: number
  code: string
}

const LETTERS = '01f'

/**
 * Makes bursts of frames: two equal ones are demanded, a burst counts once, and several senders at once do not disturb each
 * other's count. Where stamps come late and hardly a frame is whole, each symbol is voted for by itself: two who say the
 * same against nobody, or three against one. Clock in ms; it may wrap where only differences are used.
 */
export class Bursts {
  private slots = Array.from({ length: SLOTS }, () => ({ family: -1, code: '', at: 0, frames: 0 }))
  private readonly votes = new Uint8Array(LETTERS.length * MOST_BITS)
  private voting = { family: -1, at: 0 }

  constructor(private readonly families: readonly FamilyFigures[]) {}

  /** The burst that this frame makes certain, or null. */
  hear(frame: Frame, atMs: number): Burst | null {
    for (const [family, figures] of this.families.entries()) {
      const read = readFrame(figures, frame)
      if (read === null) continue
      const counted = read.includes('?') ? null : this.count(family, read, atMs)
      const voted = this.vote(family, read, atMs)
      return counted ?? (voted === null ? null : this.certain(family, voted, atMs))
    }
    return null
  }

  /** Whether one of its families reads this frame, whole or spoilt. */
  reads(frame: Frame): boolean {
    return this.families.some((f) => readFrame(f, frame) !== null)
  }

  private count(family: number, code: string, atMs: number): Burst | null {
    const slot = this.slotOf(family, code, atMs)
    slot.frames += 1
    return slot.frames === 2 ? { family, code } : null
  }

  /** A code that is certain by its votes: told unless it has been in this burst. */
  private certain(family: number, code: string, atMs: number): Burst | null {
    const slot = this.slotOf(family, code, atMs)
    if (slot.frames >= 2) return null
    slot.frames = 2
    return { family, code }
  }

  /** The place of a code, with no frames where it was not heard in this burst. What was silent longest gives way. */
  private slotOf(family: number, code: string, atMs: number) {
    let [oldest] = this.slots
    for (const s of this.slots) {
      if (s.family === family && s.code === code && s.frames > 0) {
        if (atMs - s.at >= BURST_MS) s.frames = 0
        s.at = atMs
        return s
      }
      if (oldest && oldest.frames > 0 && (s.frames === 0 || s.at < oldest.at)) oldest = s
    }
    const slot = oldest ?? { family, code, at: atMs, frames: 0 }
    return Object.assign(slot, { family, code, at: atMs, frames: 0 })
  }

  /** The code that all votes of this burst together make, or null while a symbol is open. */
  private vote(family: number, read: string, atMs: number): string | null {
    const { voting, votes } = this
    if (voting.family !== family || atMs - voting.at >= BURST_MS) votes.fill(0)
    this.voting = { family, at: atMs }
    let code = ''
    let open = false
    for (let i = 0; i < read.length; i++) {
      const said = LETTERS.indexOf(read[i] ?? '?')
      if (said >= 0) {
        const at = said * MOST_BITS + i
        votes[at] = Math.min(200, (votes[at] ?? 0) + 1)
      }
      let [best, most, rest] = [0, 0, 0]
      for (let kind = 0; kind < LETTERS.length; kind++) {
        const n = votes[kind * MOST_BITS + i] ?? 0
        if (n > most) [best, most, rest] = [kind, n, rest + most]
        else rest += n
      }
      if (most < 2 || rest > 1 || most < 2 + rest) open = true
      code += LETTERS[best] ?? '?'
    }
    return open ? null : code
  }
}
