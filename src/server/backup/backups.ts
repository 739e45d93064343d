import { randomUUID } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import type { Readable } from 'node:stream'
import type { Database } from '../db/database'
import { packFolder } from './archive'

export type Taken = { ok: true; archive: Readable } | { ok: false; busy: boolean; reason: string }

/** Backups of the running database, one at a time: a copy as of one moment, packed while it is sent, then removed. */
export class Backups {
  private taking = false

  constructor(
    private readonly db: Database,
    private readonly folder: string,
  ) {}

  async take(): Promise<Taken> {
    if (this.taking) return { ok: false, busy: true, reason: 'A backup is being taken now. Try again when it is done.' }
    this.taking = true
    const copy = path.join(this.folder, `backup-${randomUUID()}`)
    const end = () => {
      this.taking = false
      fs.rm(copy, { recursive: true, force: true }, () => undefined)
    }
    try {
      await this.db.copyTo(copy)
      return { ok: true, archive: packFolder(copy, end) }
    } catch (e) {
      end()
      const said = e instanceof Error ? e.message : String(e)
      const full = /ENOSPC|No space left/i.test(said)
      return {
        ok: false,
        busy: false,
        reason: full
          ? `The disk with ${this.folder} is too full for a copy of the database. Make room, then take the backup again; nothing else is hurt.`
          : `The backup was not taken: ${said}`,
      }
    }
  }
}
