import fs from 'node:fs'
import { builtInCatalog } from '../../src/core/catalog/catalog'
import { applyEdit } from '../../src/core/edits/apply'
import { type Design, designSchema, emptyDesign } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'

export const catalog = builtInCatalog

export function slipTank(): Design {
  return designSchema.parse(JSON.parse(fs.readFileSync('demo/designs/slip-tank.json', 'utf8')))
}

export function blank(board = 'board-32-30'): Design {
  return emptyDesign({
    id: 'b6b4f1de-6f0f-4b5c-8a55-0d6a2b9c7e11',
    name: 'bench',
    slug: 'bench',
    place: 'glazestore',
    board: { id: board, version: 1 },
  })
}

/** Applies edits one after the other; throws with the reason when one is refused. */
export function after(design: Design, ...edits: EditBody[]): Design {
  return edits.reduce((d, edit) => {
    const applied = applyEdit(d, edit, catalog)
    if (!applied.ok) throw new Error(`${edit.kind}: ${applied.reason}`)
    return applied.design
  }, design)
}

const CHANNEL: Record<string, string> = {
  'ranger-echo': 'distance',
  'relay-module-low': 'switch',
  'button-ground': 'press',
  'thermometer-one-wire': 'temperature',
}

export function addPart(partId: string, part: string): EditBody {
  return {
    kind: 'add-part',
    partId,
    part,
    label: partId,
    signals: [{ id: `s${partId}`, channel: CHANNEL[part] ?? '' }],
  }
}

/** Edits that add parts of these kinds, without signals. */
export function addParts(kinds: readonly string[]): EditBody[] {
  return kinds.map((part, i) => ({
    kind: 'add-part',
    partId: `q${i}q`,
    part,
    label: `${part} ${i}`.slice(0, 60),
    signals: [],
  }))
}

export const PARTS = Object.keys(CHANNEL)
