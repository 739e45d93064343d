import { createElement, useMemo } from 'react'
import type { Design } from '@/core/model/design'
import { hueOf } from '@/core/palette/palette'
import type { Drawing } from '@/core/wiring/drawing'
import { type DrawingLook, svgNodes } from '@/core/wiring/drawingSvg'

interface WireDrawingProps {
  drawing: Drawing
  design: Design
  /** Thread in focus: the others step back. */
  focus?: string | null
  onPick?: (signalId: string) => void
}

const attribute = (name: string) => name.replace(/-([a-z])/g, (_, c: string) => c.toUpperCase())

/** The wiring drawn: strips left and right, threads between them, rails as bars, shared nets as stubs. */
export function WireDrawing({ drawing, design, focus = null, onPick }: WireDrawingProps) {
  const nodes = useMemo(() => svgNodes(drawing, screenLook(design)), [drawing, design])
  return (
    <svg
      className="wire-drawing d-block mt-2 me-auto mb-0 ms-auto"
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      width="100%"
      style={{ minWidth: drawing.width, maxWidth: drawing.width }}
      role="img"
      aria-label="wiring drawing; the schedule says the same in words"
    >
      {nodes.map(({ tag, attributes, text, line, signalId }, i) =>
        createElement(
          tag,
          {
            ...Object.fromEntries(Object.entries(attributes).map(([k, v]) => [attribute(k), v])),
            key: i,
            'data-line': line ?? undefined,
            opacity: focus !== null && signalId !== null && signalId !== focus ? 0.3 : undefined,
            onMouseEnter: signalId !== null && onPick ? () => onPick(signalId) : undefined,
          },
          text,
        ),
      )}
    </svg>
  )
}

function screenLook(design: Design): DrawingLook {
  const signal = (id: string | null) => (id === null ? undefined : design.signals[id])
  return {
    paper: 'var(--paper)',
    ink: 'var(--ink)',
    soft: 'var(--soft)',
    font: 'inherit',
    mono: 'var(--bs-font-monospace)',
    hue: (id) => {
      const s = signal(id)
      return s ? hueOf(s) : 'var(--ink)'
    },
    thread: (id) => {
      const s = signal(id)
      return s ? `url(#ply-${s.hue})` : 'var(--ink)'
    },
  }
}
