import { z } from 'zod'
import type { Compiled } from '../../core/nodefile/compile'
import { renewDesign } from '../../core/model/renew'
import { type Design, designSchema } from '../../core/model/design'
import { type Surroundings, surroundingsSchema } from '../../core/surroundings/surroundings'
import type { Database } from './database'

export const revisionStates = ['compiled', 'waiting', 'sent', 'running', 'refused', 'returned', 'unanswered'] as const
export type RevisionState = (typeof revisionStates)[number]

const revisionRow = z.object({
  revision: z.number(),
  hash: z.string(),
  slug: z.string(),
  state: z.enum(revisionStates),
  answer: z.string().nullable(),
  created_at: z.date(),
})
export type RevisionRow = z.infer<typeof revisionRow>

export async function insertRevision(
  db: Database,
  design: Design,
  around: Surroundings,
  { file, hash, text, td }: Compiled,
): Promise<void> {
  await db.run(
    'insert into revisions (node_id, revision, hash, file, td, slug, design, surroundings) values ($1, $2, $3, $4, $5, $6, $7, $8)',
    [
      design.id,
      file.revision,
      hash,
      text,
      JSON.stringify(td),
      file.node,
      JSON.stringify(design),
      JSON.stringify(around),
    ],
  )
}

export function revisionsOf(db: Database, node: string): Promise<RevisionRow[]> {
  return db.query(
    revisionRow,
    'select revision, hash, slug, state, answer, created_at from revisions where node_id = $1 order by revision desc limit 50',
    [node],
  )
}

export async function setRevisionState(
  db: Database,
  node: string,
  revision: number,
  state: RevisionState,
  answer: string | null,
): Promise<void> {
  await db.run('update revisions set state = $3, answer = $4 where node_id = $1 and revision = $2', [
    node,
    revision,
    state,
    answer,
  ])
}

const revisionFile = z.object({
  revision: z.number(),
  hash: z.string(),
  file: z.string(),
  td: z.record(z.string(), z.json()),
  slug: z.string(),
  state: z.enum(revisionStates),
  design: z.unknown().transform((json) => (json === null ? null : designSchema.parse(renewDesign(json)))),
  surroundings: surroundingsSchema.nullable(),
})

/** One file as it was compiled, with the design it came from where that was kept. */
export async function revisionOf(db: Database, node: string, revision: number) {
  return (
    (
      await db.query(
        revisionFile,
        'select revision, hash, file, td, slug, state, design, surroundings from revisions where node_id = $1 and revision = $2',
        [node, revision],
      )
    )[0] ?? null
  )
}

/** Texts of the latest files of a node, newest first. */
export function fileTextsOf(db: Database, node: string): Promise<{ revision: number; file: string }[]> {
  return db.query(
    z.object({ revision: z.number(), file: z.string() }),
    'select revision, file from revisions where node_id = $1 order by revision desc limit 20',
    [node],
  )
}

/** Files that wait for their node to wake: the latest of each. */
export function waitingRevisions(db: Database) {
  return db.query(
    z.object({ node_id: z.string(), revision: z.number() }),
    "select node_id, max(revision) as revision from revisions where state = 'waiting' group by node_id",
  )
}

export const runningRow = z.object({ node_id: z.string(), revision: z.number(), hash: z.string() })

export function allRunning(db: Database) {
  return db.query(runningRow, 'select node_id, revision, hash from running')
}

/** Names a node's files have had since the one it runs, oldest first: what it may still publish under. */
export function slugsSinceRunning(db: Database) {
  return db.query(
    z.object({ node_id: z.string(), slug: z.string() }),
    `
    select distinct r.node_id, r.slug from revisions r left join running on running.node_id = r.node_id
    where r.revision >= coalesce(running.revision, 0)`,
  )
}

export async function setRunning(db: Database, node: string, revision: number, hash: string): Promise<void> {
  await db.run(
    `insert into running (node_id, revision, hash, at) values ($1, $2, $3, now())
    on conflict (node_id) do update set revision = excluded.revision, hash = excluded.hash, at = excluded.at`,
    [node, revision, hash],
  )
}

/** Short names signals of a node had in earlier files and have in this one no more. */
export async function formerSignals(db: Database, node: string, revision: number): Promise<string[]> {
  const rows = await db.query(
    z.object({ slug: z.string() }),
    `with told as (
      select r.revision, s.value ->> 'slug' as slug from revisions r, jsonb_each(r.design -> 'signals') s
        where r.node_id = $1 and r.revision <= $2
    )
    select distinct slug from told
      where slug is not null and slug not in (select slug from told where revision = $2 and slug is not null)`,
    [node, revision],
  )
  return rows.map((r) => r.slug)
}
