import { z } from 'zod'
import { renewDesign } from '../../core/model/renew'
import { type Design, designSchema } from '../../core/model/design'
import { type Edit, editBodySchema } from '../../core/edits/edit'
import type { Database } from './database'
import type { Statement } from './protocol'

const nodeRow = z.object({
  id: z.string(),
  design: z.unknown().transform((json) => designSchema.parse(renewDesign(json))),
  seq: z.number(),
})
export type NodeRow = z.infer<typeof nodeRow>

export function allNodes(db: Database): Promise<NodeRow[]> {
  return db.query(nodeRow, 'select id, design, seq from nodes where retired_at is null order by created_at, slug')
}

/** What begins a node; to be written together. */
export function nodeStatements(design: Design, author: string): Statement[] {
  return [
    {
      sql: 'insert into nodes (id, slug, design) values ($1, $2, $3)',
      params: [design.id, design.slug, JSON.stringify(design)],
    },
    {
      sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)',
      params: [design.id, author, `node ${design.name} begun`],
    },
  ]
}

/** One edit and the design it leads to, in one statement. False when the node has moved on since `edit.base`. */
export async function saveEdit(db: Database, edit: Edit, words: string, design: Design): Promise<boolean> {
  const rows = await db.query(
    z.object({ seq: z.number() }),
    `
    with moved as (
      update nodes set design = $3, slug = $4, seq = seq + 1, changed_at = now() where id = $1 and seq = $2 returning seq
    )
    insert into edits (node_id, seq, id, body, words, author, at)
    select $1, moved.seq, $5, $6, $7, $8, $9 from moved returning seq`,
    [
      edit.document,
      edit.base,
      JSON.stringify(design),
      design.slug,
      edit.id,
      JSON.stringify(edit.body),
      words,
      edit.author,
      edit.at,
    ],
  )
  return rows.length === 1
}

const editRow = z.object({
  seq: z.number(),
  id: z.string(),
  body: editBodySchema,
  words: z.string(),
  author: z.string(),
  at: z.date(),
})
export type EditRow = z.infer<typeof editRow>

export function editsAfter(db: Database, node: string, seq: number, most = 500): Promise<EditRow[]> {
  return db.query(
    editRow,
    'select seq, id, body, words, author, at from edits where node_id = $1 and seq > $2 order by seq limit $3',
    [node, seq, most],
  )
}

export function latestEdits(db: Database, node: string, most: number): Promise<EditRow[]> {
  return db.query(
    editRow,
    'select seq, id, body, words, author, at from edits where node_id = $1 order by seq desc limit $2',
    [node, most],
  )
}

export async function editSeq(db: Database, id: string): Promise<number | null> {
  return (await db.query(z.object({ seq: z.number() }), 'select seq from edits where id = $1', [id]))[0]?.seq ?? null
}
