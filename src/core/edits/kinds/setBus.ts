import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { linesOf } from '../../catalog/part'
import { hostOf } from '../../lines/lines'
import { type Design, idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { refuse, type Step, withPart } from '../step'

const schema = z.strictObject({ kind: z.literal('set-bus'), partId: idSchema, bus: z.string().max(30).nullable() })
type Edit = z.infer<typeof schema>

/** The bus a part sits on, or the converter input that measures it. */
export const setBus = designEdit({
  schema,
  touches: ['parts'],
  apply: busSet,
  words: (edit, design) => `put ${labelOf(design, edit.partId)} on ${busWords(edit.bus, design)}`,
})

function busWords(bus: string | null, design: Design): string {
  if (bus === null) return 'its usual bus'
  const [host = '', input = ''] = bus.split(':')
  if (bus.includes(':')) return `input or branch ${input} of ${labelOf(design, host)}`
  return bus === 'own' ? 'a line of its own' : `bus ${bus.toUpperCase()}`
}

function busSet(design: Design, edit: Edit, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const kind = catalog.parts[part.kind]
    const bus = kind?.terminals.flatMap((t) => (t.role === 'line' && t.bus ? [t.bus.kind] : []))[0]
    if (!bus && edit.bus !== null) {
      const refused = cannotHost(design, catalog, edit.partId, edit.bus)
      if (refused) return refused
      return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, bus: edit.bus } } }
    }
    if (bus === 'uart' && edit.bus !== null && edit.bus !== 'own')
      return refuse(`${part.label} talks to one alone: a serial line is not shared`, 'own')
    if (edit.bus?.includes(':')) {
      const [mux = '', branch = ''] = edit.bus.split(':')
      const of = catalog.parts[design.parts[mux]?.kind ?? '']
      if (!of?.terminals.some((t) => t.id === `sd${branch}`))
        return refuse(`there is no branch “${edit.bus}”`, 'PART:N of a multiplexer in the design')
      if (mux === edit.partId || bus !== 'i2c')
        return refuse(`${part.label} cannot sit behind it`, 'a part on a two-wire bus')
    }
    return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, bus: edit.bus } } }
  })
}

/** Why an analog part may not be put at this input of a converter, or null. */
function cannotHost(design: Design, catalog: Catalog, partId: string, at: string): Step | null {
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  const [line, ...more] = kind ? linesOf(kind) : []
  const [hostId = '', n = ''] = at.split(':')
  const host = catalog.parts[design.parts[hostId]?.kind ?? '']
  if (!part || !kind || more.length > 0 || line?.needs !== 'analog')
    return refuse(`${part?.label ?? 'this part'} is on no bus`, 'a part that is')
  const moving = kind.channels.some((c) => c.access !== 'reading' || c.analog === 'swing' || c.analog === 'rms')
  if (moving) return refuse(`${part.label} moves faster than a converter on a bus measures`, 'an input of the board')
  if (!host?.converter || hostOf(design, catalog, { ...part, bus: at }, line) === null)
    return refuse(`there is no converter input “${at}”`, 'PART:N of a converter in the design')
  const other = Object.entries(design.parts).find(([id, p]) => id !== partId && p.bus === at)
  return other ? refuse(`input ${n} is taken by ${other[1].label}`, 'a free input') : null
}
