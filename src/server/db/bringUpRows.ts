import { z } from 'zod'
import type { Database } from './database'
import { spreadAll } from './messageRows'

const foundRow = z.object({
  place: z.string(),
  value: z.number().nullable(),
  unit: z.string(),
  ok: z.boolean(),
  who: z.string(),
  remark: z.string(),
  at: z.date(),
})
export type FoundRow = z.infer<typeof foundRow>

/** What was last found at every place of a node. */
export function lastFound(db: Database, node: string): Promise<FoundRow[]> {
  return db.query(
    foundRow,
    'select distinct on (place) place, value, unit, ok, who, remark, at from measurements where node_id = $1 order by place, id desc',
    [node],
  )
}

/** One finding, with its line in the logbook. */
export async function insertFound(db: Database, node: string, f: Omit<FoundRow, 'at'>, words: string): Promise<void> {
  await db.transaction([
    {
      sql: 'insert into measurements (node_id, place, value, unit, ok, who, remark) values ($1, $2, $3, $4, $5, $6, $7)',
      params: [node, f.place, f.value, f.unit, f.ok, f.who, f.remark],
    },
    { sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)', params: [node, f.who, words] },
  ])
}

const boardRow = z.object({
  hardware: z.string(),
  chip: z.string(),
  node_id: z.string().nullable(),
  image: z.string().nullable(),
  image_version: z.string().nullable(),
  address: z.string().nullable(),
  remark: z.string(),
  seen_at: z.date(),
})
export type BoardRow = z.infer<typeof boardRow>

export function allBoards(db: Database): Promise<BoardRow[]> {
  return db.query(boardRow, 'select * from boards order by seen_at desc, hardware')
}

/** What was read from a board: what is not known this time stays as it was. A node has one board. */
export async function seenBoard(
  db: Database,
  b: {
    hardware: string
    chip: string
    node: string | null
    image: string | null
    imageVersion: string | null
    address: string | null
  },
): Promise<void> {
  await db.transaction([
    ...(b.node === null
      ? []
      : [
          {
            sql: 'update boards set node_id = null where node_id = $1 and hardware <> $2',
            params: [b.node, b.hardware],
          },
        ]),
    {
      sql: `insert into boards (hardware, chip, node_id, image, image_version, address) values ($1, $2, $3, $4, $5, $6)
        on conflict (hardware) do update set chip = excluded.chip, node_id = coalesce(excluded.node_id, boards.node_id),
        image = coalesce(excluded.image, boards.image), image_version = coalesce(excluded.image_version, boards.image_version),
        address = coalesce(excluded.address, boards.address), seen_at = now()`,
      params: [b.hardware, b.chip, b.node, b.image, b.imageVersion, b.address],
    },
  ])
}

export async function remarkBoard(db: Database, hardware: string, remark: string): Promise<void> {
  await db.run('update boards set remark = $2 where hardware = $1', [hardware, remark])
}

export async function dropBoard(db: Database, hardware: string): Promise<void> {
  await db.run('delete from boards where hardware = $1', [hardware])
}

const trialRow = z.object({
  id: z.coerce.number(),
  node_id: z.string(),
  days: z.number(),
  who: z.string(),
  started_at: z.date(),
  ended_at: z.date().nullable(),
  happened: z.unknown(),
})
export type TrialRow = z.infer<typeof trialRow>

export function trialsOf(db: Database, node: string | null): Promise<TrialRow[]> {
  return node === null
    ? db.query(trialRow, 'select * from trials where ended_at is null')
    : db.query(trialRow, 'select * from trials where node_id = $1 order by id desc limit 5', [node])
}

export async function startTrial(db: Database, node: string, days: number, who: string): Promise<void> {
  await db.transaction([
    { sql: 'insert into trials (node_id, days, who) values ($1, $2, $3)', params: [node, days, who] },
    {
      sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)',
      params: [node, who, `trial of ${days} days started`],
    },
  ])
}

/** Mean of each reading of a node in the first and the last tenth of a time. */
export async function tenths(
  db: Database,
  node: string,
  from: Date,
  to: Date,
): Promise<{ signal_id: string; first: number; last: number }[]> {
  await spreadAll(db)
  const tenth = (to.getTime() - from.getTime()) / 10
  return db.query(
    z.object({ signal_id: z.string(), first: z.number(), last: z.number() }),
    `select signal_id, first, last from (
      select signal_id, avg(number) filter (where at < $4) as first, avg(number) filter (where at >= $5) as last
      from readings where node_id = $1 and at between $2 and $3 and number is not null and ahead is null group by 1
    ) t where first is not null and last is not null order by 1`,
    [node, from, to, new Date(from.getTime() + tenth), new Date(to.getTime() - tenth)],
  )
}

export async function keepTrial(db: Database, id: number, happened: unknown): Promise<void> {
  await db.run('update trials set happened = $2 where id = $1', [id, JSON.stringify(happened)])
}

export async function endTrial(db: Database, id: number, node: string, who: string, words: string): Promise<void> {
  await db.transaction([
    { sql: 'update trials set ended_at = now() where id = $1 and ended_at is null', params: [id] },
    { sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)', params: [node, who, words.slice(0, 500)] },
  ])
}
