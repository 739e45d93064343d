import type { Held } from '../../wire/protocol'
import type { Database } from '../db/database'
import { clearOld } from '../db/retention'
import { rollUp } from '../db/rollUp'
import type { Workshop } from '../nodes/workshop'

const ROLL_UP_MS = 60_000
/** Old rows are looked for once in this many roll-ups. */
const CLEAR_EVERY = 60

export interface UpkeepOptions {
  db: Database
  workshop: Workshop
  trouble: (topic: string, what: string) => void
}

/** What is done to kept readings from time to time: summed, and cleared when they are old. */
export class Upkeep {
  /** Old readings that wait for somebody's word before they go. */
  held: Held | null = null
  private sums = 0
  private readonly timer: NodeJS.Timeout

  constructor(private readonly o: UpkeepOptions) {
    this.timer = setInterval(() => void this.rollUp(), ROLL_UP_MS)
  }

  stop(): void {
    clearInterval(this.timer)
  }

  private async rollUp(): Promise<void> {
    try {
      for (const { node, signal, why } of await rollUp(this.o.db, new Date())) {
        const design = this.o.workshop.get(node)?.design
        this.o.trouble(
          '',
          `readings of ${design?.name ?? 'a node'} ${design?.signals[signal]?.tag ?? signal} cannot be summed: ${why}`,
        )
      }
      if (this.sums++ % CLEAR_EVERY === 0) await this.clearOld(false)
    } catch (e) {
      this.o.trouble('', `roll-up failed and is tried again: ${e instanceof Error ? e.message : String(e)}`)
    }
  }

  /** Removes old readings; what is held back for somebody's word is in the counts. */
  async clearOld(confirmed: boolean): Promise<number> {
    const { removed, marked, held } = await clearOld(this.o.db, new Date(), confirmed)
    if (marked > 0)
      this.o.trouble(
        '',
        `${marked} readings bear a time still to come: the clock of this machine was ahead. They are marked and left out`,
      )
    if (held && !this.held)
      this.o.trouble(
        '',
        `${held.rows} readings are older than they are kept, much more than the ${held.usualADay} of a day: nothing goes until the Settings are told`,
      )
    this.held = held
    return removed
  }
}
