import { z } from 'zod'
import type { Database } from './database'
import type { Statement } from './protocol'

export async function readSetting<T>(db: Database, name: string, schema: z.ZodType<T>): Promise<T | null> {
  const [row] = await db.query(z.object({ value: z.unknown() }), 'select value from settings where name = $1', [name])
  if (!row) return null
  return schema.parse(row.value)
}

/** All together or none. A null value takes the setting away. */
export async function putSettings(db: Database, values: Record<string, unknown>): Promise<void> {
  await db.transaction(putSettingStatements(values))
}

/** The same as statements, to be written with others. */
export function putSettingStatements(values: Record<string, unknown>): Statement[] {
  return Object.entries(values).map(([name, value]) =>
    value === null
      ? { sql: 'delete from settings where name = $1', params: [name] }
      : {
          sql: 'insert into settings (name, value) values ($1, $2) on conflict (name) do update set value = excluded.value',
          params: [name, JSON.stringify(value)],
        },
  )
}
