'use client'
import { Dropdown } from 'react-bootstrap'
import { hueOf } from '@/core/palette/palette'
import type { Drawing } from '@/core/wiring/drawing'
import { saveFile } from '@/ui/files/saveFile'
import { drawingSvg } from '@/core/wiring/drawingSvg'
import { partsCsv, scheduleCsv } from '@/core/wiring/schedule'
import type { NodeView } from '@/ui/live/useNode'

/** The wiring as files: schedule and parts as CSV, the drawing as SVG. */
export function Files({ view, drawing }: { view: NodeView; drawing: Drawing }) {
  const {
    node: { design },
    board,
    catalog,
    derived: { wiring },
  } = view
  const hue = (id: string | null) => {
    const s = id === null ? undefined : design.signals[id]
    return s ? hueOf(s) : '#111'
  }
  const files: [string, string, string, () => string][] = [
    ['Wires as CSV', `${design.slug}-wires.csv`, 'text/csv', () => scheduleCsv(design, wiring)],
    ['Parts as CSV', `${design.slug}-parts.csv`, 'text/csv', () => partsCsv(design, catalog, board, wiring)],
    [
      'Drawing as SVG',
      `${design.slug}-wiring.svg`,
      'image/svg+xml',
      () => drawingSvg(drawing, `Wiring of ${design.name}`, hue),
    ],
  ]
  return (
    <Dropdown align="end">
      <Dropdown.Toggle variant="quiet">Files</Dropdown.Toggle>
      <Dropdown.Menu>
        {files.map(([label, name, type, make]) => (
          <Dropdown.Item key={name} as="button" onClick={() => saveFile(name, type, make())}>
            {label}
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  )
}
