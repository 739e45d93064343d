'use client'
import { Dropdown } from 'react-bootstrap'
import { hueOf } from '@/core/palette/palette'
import type { Drawing } from '@/core/wiring/drawing'
import { drawingSvg } from '@/core/wiring/drawingSvg'
import { partsCsv, scheduleCsv } from '@/core/wiring/schedule'
import type { NodeView } from '@/ui/live/useNode'

/** The wiring as files: schedule and parts as CSV, the drawing as SVG. */
export function Files({ view, drawing }: { view: NodeView; drawing: Drawing }) {
  const { node: { design }, board, catalog, derived: { wiring } } = view
  const hue = (id: string | null) => { const s = id === null ? undefined : design.signals[id]; return s ? hueOf(s) : '#111' }
  const files: [string, string, string, () => string][] = [
    ['Wires as CSV', `${design.slug}-wires.csv`, 'text/csv', () => scheduleCsv(design, wiring)],
    ['Parts as CSV', `${design.slug}-parts.csv`, 'text/csv', () => partsCsv(design, catalog, board, wiring)],
    ['Drawing as SVG', `${design.slug}-wiring.svg`, 'image/svg+xml', () => drawingSvg(drawing, `Wiring of ${design.name}`, hue)],
  ]
  return (
    <Dropdown align="end">
      <Dropdown.Toggle variant="quiet">Files</Dropdown.Toggle>
      <Dropdown.Menu>{files.map(([label, name, type, make]) => <Dropdown.Item key={name} as="button" onClick={() => save(name, type, make())}>{label}</Dropdown.Item>)}</Dropdown.Menu>
    </Dropdown>
  )
}

function save(name: string, type: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: `${type};charset=utf-8` }))
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
