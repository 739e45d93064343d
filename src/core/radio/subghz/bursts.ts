import { type Frame, readFrame } from './decode'
import { type FamilyFigures, MOST_BITS } from './family'

/** Frames of one code that follow each other within this are one burst, ms. */
export const BURST_MS = 600
/** Codes in the air at the same time that are kept apart. */
const SLOTS = 4

const LETTERS = '01f'

/**
 * Makes bursts of the frames of one family: two equal ones are demanded, a burst counts once, and several senders at once
 * do not disturb each other's count. Where stamps come late and hardly a frame is whole, each symbol is voted for by
 * itself: two who say the same against nobody, or three against one. Clock in ms; it may wrap where only differences are
 * used. A frame that several families read is counted by each: who the sender is decides between them.
 */
export class Bursts {
  private slots = Array.from({ length: SLOTS }, () => ({ code: '', at: 0, frames: 0 }))
  private readonly votes = new Uint8Array(LETTERS.length * MOST_BITS)
  private votedAt = 0

  constructor(private readonly family: FamilyFigures) {}

  /** The code of the burst that this frame makes certain, or null. */
  hear(frame: Frame, atMs: number): string | null {
    const read = readFrame(this.family, frame)
    return read === null ? null : this.take(read, atMs)
  }

  /** The same of a frame that is read already. */
  take(read: string, atMs: number): string | null {
    const counted = read.includes('?') ? null : this.count(read, atMs)
    const voted = this.vote(read, atMs)
    return counted ?? (voted === null ? null : this.certain(voted, atMs))
  }

  private count(code: string, atMs: number): string | null {
    const slot = this.slotOf(code, atMs)
    slot.frames += 1
    return slot.frames === 2 ? code : null
  }

  /** A code that is certain by its votes: told unless it has been in this burst. */
  private certain(code: string, atMs: number): string | null {
    const slot = this.slotOf(code, atMs)
    if (slot.frames >= 2) return null
    slot.frames = 2
    return code
  }

  /** The place of a code, with no frames where it was not heard in this burst. What was silent longest gives way. */
  private slotOf(code: string, atMs: number) {
    let [oldest] = this.slots
    for (const s of this.slots) {
      if (s.code === code && s.frames > 0) {
        if (atMs - s.at >= BURST_MS) s.frames = 0
        s.at = atMs
        return s
      }
      if (oldest && oldest.frames > 0 && (s.frames === 0 || s.at < oldest.at)) oldest = s
    }
    const slot = oldest ?? { code, at: atMs, frames: 0 }
    return Object.assign(slot, { code, at: atMs, frames: 0 })
  }

  /** The code that all votes of this burst together make, or null while a symbol is open. */
  private vote(read: string, atMs: number): string | null {
    const { votes } = this
    if (atMs - this.votedAt >= BURST_MS) votes.fill(0)
    this.votedAt = atMs
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
