import { decodeFrame, type Frame } from './decode'
import type { FamilyFigures } from './family'

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

/**
 * Makes bursts of frames: two equal ones are demanded, a burst counts once, and several senders at once do not disturb
 * each other's count. Clock in ms; it may wrap where only differences are used.
 */
export class Bursts {
  private slots = Array.from({ length: SLOTS }, () => ({ family: -1, code: '', at: 0, frames: 0 }))

  constructor(private readonly families: readonly FamilyFigures[]) {}

  /** The burst that this frame makes certain, or null. */
  hear(frame: Frame, atMs: number): Burst | null {
    for (let family = 0; family < this.families.length; family++) {
      const figures = this.families[family]
      const code = figures ? decodeFrame(figures, frame) : null
      if (code !== null) return this.count(family, code, atMs)
    }
    return null
  }

  /** Whether one of its families makes a code of this frame. */
  reads(frame: Frame): boolean {
    return this.families.some((f) => decodeFrame(f, frame) !== null)
  }

  /** Frames of the burst this code is in, so far. */
  framesOf({ family, code }: Burst): number {
    return this.slots.find((s) => s.family === family && s.code === code)?.frames ?? 0
  }

  private count(family: number, code: string, atMs: number): Burst | null {
    let slot = this.slots[0]
    for (const s of this.slots) {
      if (s.family === family && s.code === code && s.frames > 0) {
        if (atMs - s.at >= BURST_MS) s.frames = 0
        s.at = atMs
        s.frames += 1
        return s.frames === 2 ? { family, code } : null
      }
      // What has been silent longest gives way.
      if (slot && slot.frames > 0 && (s.frames === 0 || s.at < slot.at)) slot = s
    }
    if (slot) Object.assign(slot, { family, code, at: atMs, frames: 1 })
    return null
  }
}
