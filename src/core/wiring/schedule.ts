import Papa from 'papaparse'
import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder } from '../model/design'
import type { Component, End, Wire, Wiring } from './netlist'

/** One row of the wire schedule. `from` and `to` say the thing and what is printed on it. */
export interface ScheduleRow {
  key: string
  number: number
  tag: string
  signalId: string | null
  from: string
  to: string
  insulation: string
  gaugeMm2: number
  lengthM: number
  note: string
  made: boolean
  wire: Wire
}

/** `Ranger ECHO`, `board D34`, `R1`, `5V rail`. */
export function endWords(end: End): string {
  switch (end.kind) {
    case 'part':
      return `${end.owner} ${end.label}`
    case 'pin':
      return `board ${end.label}`
    case 'rail':
      return end.owner === 'splice' ? `splice ${end.label}` : `${end.label} rail`
    case 'leg':
      return end.label.replace('.', ' ')
    case 'foreign':
      return `${end.owner} ${end.label}`
  }
}

/** All wires in the order of their numbers. */
export function scheduleOf(design: Design, wiring: Wiring): ScheduleRow[] {
  return wiring.wires
    .flatMap((wire): ScheduleRow[] => {
      const stored = design.wires[wire.key]
      return stored
        ? [
            {
              key: wire.key,
              number: stored.number,
              tag: wire.tag,
              signalId: wire.signalId,
              from: endWords(wire.from),
              to: endWords(wire.to),
              insulation: stored.insulation,
              gaugeMm2: stored.gaugeMm2,
              lengthM: wire.lengthM,
              note: wire.note,
              made: stored.made,
              wire,
            },
          ]
        : []
    })
    .sort((a, b) => a.number - b.number)
}

/** What has to be bought: board, parts, added components, and wire by colour and gauge. */
export interface PartRow {
  what: string
  value: string
  count: number
  names: string
}

export function partRows(design: Design, catalog: Catalog, board: Board, wiring: Wiring): PartRow[] {
  const rows: PartRow[] = [{ what: board.name, value: '', count: 1, names: 'board' }]
  const kinds = new Map<string, string[]>()
  for (const { value } of inOrder(design.parts)) kinds.set(value.kind, [...(kinds.get(value.kind) ?? []), value.label])
  for (const [kind, labels] of kinds)
    rows.push({ what: catalog.parts[kind]?.name ?? kind, value: '', count: labels.length, names: labels.join(', ') })
  const values = new Map<string, Component[]>()
  for (const c of wiring.components)
    values.set(`${c.what} ${c.value}`, [...(values.get(`${c.what} ${c.value}`) ?? []), c])
  for (const list of values.values())
    rows.push({
      what: list[0]?.what ?? '',
      value: list[0]?.value ?? '',
      count: list.length,
      names: list.map((c) => c.name).join(', '),
    })
  const metres = new Map<string, { m: number; n: number }>()
  for (const row of scheduleOf(design, wiring)) {
    const id = `${row.insulation}, ${row.gaugeMm2} mm²`
    const known = metres.get(id) ?? { m: 0, n: 0 }
    metres.set(id, { m: known.m + row.lengthM, n: known.n + 1 })
  }
  for (const [id, { m, n }] of metres)
    rows.push({ what: `wire, ${id}`, value: `${Math.ceil(m * 10) / 10} m`, count: n, names: '' })
  return rows
}

/** The schedule as CSV (RFC 4180, UTF-8, CRLF). */
export function scheduleCsv(design: Design, wiring: Wiring): string {
  return Papa.unparse(
    {
      fields: ['number', 'tag', 'from', 'to', 'insulation', 'gauge mm²', 'length m', 'made', 'note'],
      data: scheduleOf(design, wiring).map((r) => [
        `W${r.number}`,
        r.tag,
        r.from,
        r.to,
        r.insulation,
        r.gaugeMm2,
        r.lengthM,
        r.made ? 'yes' : 'no',
        r.note,
      ]),
    },
    { escapeFormulae: true },
  )
}

/** What has to be bought as CSV. */
export function partsCsv(design: Design, catalog: Catalog, board: Board, wiring: Wiring): string {
  return Papa.unparse(
    {
      fields: ['what', 'value', 'count', 'names'],
      data: partRows(design, catalog, board, wiring).map((r) => [r.what, r.value, r.count, r.names]),
    },
    { escapeFormulae: true },
  )
}
