'use client'
import { type KeyboardEvent, type PointerEvent, useRef } from 'react'

/** Where the drawing area of a chart lies and what its height stands for, px and the unit shown. */
export interface Plot {
  top: number
  height: number
  left: number
  width: number
  min: number
  max: number
}

/** What a chart says of its own drawing area once it is drawn; null while it is not. */
export function plotOf(globals: unknown): Plot | null {
  const g = globals as {
    translateX?: number
    translateY?: number
    gridHeight?: number
    gridWidth?: number
    yAxisScale?: { niceMin: number; niceMax: number }[]
  }
  const scale = g.yAxisScale?.[0]
  if (!scale || !g.gridHeight || !(scale.niceMax > scale.niceMin)) return null
  return {
    top: g.translateY ?? 0,
    height: g.gridHeight,
    left: g.translateX ?? 0,
    width: g.gridWidth ?? 0,
    min: scale.niceMin,
    max: scale.niceMax,
  }
}

const STEPS = 400

/** The threshold on the curve itself: dragged, or moved by the arrow keys. In the unit shown. */
export function CutHandle({
  plot,
  cut,
  words,
  onCut,
}: {
  plot: Plot
  cut: number
  words: string
  onCut: (cut: number) => void
}) {
  const box = useRef<HTMLDivElement>(null)
  const { top, height, left, width, min, max } = plot
  const within = (v: number) => Math.min(max, Math.max(min, v))
  const drag = (e: PointerEvent) => {
    const area = box.current?.parentElement?.getBoundingClientRect()
    if (!area || !e.currentTarget.hasPointerCapture(e.pointerId)) return
    onCut(within(max - ((e.clientY - area.top - top) / height) * (max - min)))
  }
  const key = (e: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowDown: -1, PageUp: 20, PageDown: -20 }[e.key]
    if (by === undefined) return
    e.preventDefault()
    onCut(within(cut + (by * (max - min)) / STEPS))
  }
  const y = top + height * (1 - (within(cut) - min) / (max - min))
  return (
    <div
      ref={box}
      className="cut-handle"
      role="slider"
      tabIndex={0}
      aria-label="threshold on the curve"
      aria-orientation="vertical"
      aria-valuemin={min}
      aria-valuemax={max}
      aria-valuenow={cut}
      aria-valuetext={words}
      style={{ top: y, left, width }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={drag}
      onKeyDown={key}
    />
  )
}
