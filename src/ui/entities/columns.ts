import { z } from 'zod'
import type { EditBody } from '@/core/edits/edit'
import { nameSchema } from '@/core/model/design'
import { slugFrom } from '@/core/model/slug'
import type { SheetRow } from '@/core/publish/entitySheet'
import { numberIn } from '@/ui/fields/numberIn'

/** What a cell can be set to, and the edit that does it. */
export interface Column {
  id: 'offered' | 'name' | 'slug' | 'unit' | 'decimals' | 'role' | 'everyS'
  head: string
  show: (row: SheetRow) => string
  /** Values one key steps through; null: it is typed. */
  choices: ((row: SheetRow) => string[]) | null
  /** False where there is nothing to set. */
  has: (row: SheetRow) => boolean
  /** The edit for a text, or why not. */
  edit: (row: SheetRow, text: string) => EditBody | { problem: string }
}

const publish = (row: SheetRow, set: Extract<EditBody, { kind: 'publish' }>['set']): EditBody => ({
  kind: 'publish',
  signalId: row.signalId,
  set,
})

function typed<T>(schema: z.ZodType<T, string>, make: (row: SheetRow, value: T) => EditBody): Column['edit'] {
  return (row, text) => {
    const read = schema.safeParse(text)
    return read.success ? make(row, read.data) : { problem: read.error.issues[0]?.message ?? 'This is not accepted.' }
  }
}

const every = () => true
const isReading = (row: SheetRow) => row.access === 'reading'

export const COLUMNS: readonly Column[] = [
  {
    id: 'offered',
    head: 'offered',
    show: (r) => (r.offered ? 'yes' : 'no'),
    choices: () => ['yes', 'no'],
    has: every,
    edit: (row, text) => publish(row, { entity: text === 'yes' }),
  },
  {
    id: 'name',
    head: 'name',
    show: (r) => r.name,
    choices: null,
    has: every,
    edit: typed(nameSchema, (row, name) => ({
      kind: 'rename-signal',
      signalId: row.signalId,
      name,
      slug: row.signal.slug,
    })),
  },
  {
    id: 'slug',
    head: 'topic',
    show: (r) => r.signal.slug,
    choices: null,
    has: every,
    edit: typed(z.string().trim().min(1, 'a short name'), (row, text) => ({
      kind: 'rename-signal',
      signalId: row.signalId,
      name: row.name,
      slug: slugFrom(text, []),
    })),
  },
  {
    id: 'unit',
    head: 'unit',
    show: (r) => r.unit,
    choices: (r) => r.units,
    has: (r) => isReading(r) && r.units.length > 1,
    edit: (row, unit) => publish(row, { unit }),
  },
  {
    id: 'decimals',
    head: 'decimals',
    show: (r) => (r.decimals === null ? '' : String(r.decimals)),
    choices: null,
    has: isReading,
    edit: typed(numberIn(0, 6, '').pipe(z.int('Whole decimals only.')), (row, decimals) => publish(row, { decimals })),
  },
  {
    id: 'role',
    head: 'for',
    show: (r) => (r.role === 'main' ? 'house' : 'diagnosis'),
    choices: () => ['house', 'diagnosis'],
    has: every,
    edit: (row, text) => publish(row, { role: text === 'diagnosis' ? 'diagnostic' : 'main' }),
  },
  {
    id: 'everyS',
    head: 'every, s',
    show: (r) => (r.access === 'event' ? '' : String(r.signal.publish.intervalS)),
    choices: null,
    has: (r) => r.access !== 'event',
    edit: typed(numberIn(0, 86_400, 's'), (row, intervalS) => publish(row, { intervalS })),
  },
]
