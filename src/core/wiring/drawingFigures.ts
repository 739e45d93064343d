import type { Drawing, Shape } from './drawing'

export interface DrawingFigures {
  /** Places where two different conductors cross. */
  crossings: number
  /** Corners of wires. */
  bends: number
  /** Length of all wires, px. */
  length: number
  /** Pairs of words, ferrules and boxes that cover one another, and wires drawn through words. */
  overlaps: number
  /** Smallest print, px. */
  smallest: number
}

interface Rect {
  x: number
  y: number
  width: number
  height: number
}
interface Segment {
  net: string
  a: [number, number]
  b: [number, number]
  thread: boolean
}

/** Width of a character, as a share of the size of print. */
const PROPORTIONAL = 0.54
const MONOSPACED = 0.6

/** Figures of a drawing that get worse when it does. */
export function drawingFigures({ shapes }: Drawing): DrawingFigures {
  const segments = shapes.flatMap((s): Segment[] =>
    s.kind !== 'wire'
      ? []
      : s.points.slice(1).map((b, i) => ({ net: s.net, a: s.points[i] ?? b, b, thread: s.thread })),
  )
  const covered = shapes.flatMap((s): Rect[] => extentOf(s) ?? [])
  let crossings = 0
  segments.forEach((s, i) => {
    for (const o of segments.slice(i + 1)) if (o.net !== s.net && cross(s, o)) crossings += 1
  })
  let overlaps = 0
  covered.forEach((r, i) => {
    for (const o of covered.slice(i + 1)) if (meet(r, o)) overlaps += 1
  })
  for (const s of shapes) {
    // Words that lie on a wire bring their own ground, so that it does not go through them.
    if (s.kind !== 'text' || s.ground) continue
    const box = textBox(s)
    for (const { a, b } of segments)
      if (
        meet(box, {
          x: Math.min(a[0], b[0]) - 1,
          y: Math.min(a[1], b[1]) - 1,
          width: Math.abs(a[0] - b[0]) + 2,
          height: Math.abs(a[1] - b[1]) + 2,
        })
      )
        overlaps += 1
  }
  const texts = shapes.flatMap((s) => (s.kind === 'text' ? [s.size] : []))
  return {
    crossings,
    overlaps,
    smallest: Math.min(...texts),
    bends: shapes.reduce((n, s) => n + (s.kind === 'wire' ? Math.max(0, s.points.length - 2) : 0), 0),
    length: Math.round(segments.reduce((sum, { a, b }) => sum + Math.hypot(a[0] - b[0], a[1] - b[1]), 0)),
  }
}

function extentOf(s: Shape): Rect[] | null {
  switch (s.kind) {
    case 'ferrule':
      return [{ x: s.x, y: s.y, width: s.width, height: 22 }]
    case 'net':
      return [{ x: s.x, y: s.y, width: s.width, height: 22 }]
    case 'text':
      return s.text === '' ? null : [textBox(s)]
    case 'symbol':
      return [
        s.upright
          ? { x: s.x - s.width / 2, y: s.y - 16, width: s.width, height: 32 }
          : { x: s.x - s.width / 2, y: s.y - 10, width: s.width, height: 20 },
      ]
    default:
      return null
  }
}

export function textBox(s: Extract<Shape, { kind: 'text' }>): Rect {
  const width = s.text.length * s.size * (s.mono ? MONOSPACED : PROPORTIONAL)
  const fromAnchor = s.anchor === 'end' ? s.x - width : s.x - width / 2
  const x = s.anchor === 'start' ? s.x : fromAnchor
  return { x, y: s.y - s.size * 0.74, width, height: s.size * 0.95 }
}

function meet(a: Rect, b: Rect): boolean {
  return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height
}

/** Proper crossing of two segments, ends that touch included. */
function cross(p: Segment, q: Segment): boolean {
  const side = (a: [number, number], b: [number, number], c: [number, number]) =>
    Math.sign((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
  return side(p.a, p.b, q.a) * side(p.a, p.b, q.b) < 0 && side(q.a, q.b, p.a) * side(q.a, q.b, p.b) < 0
}
