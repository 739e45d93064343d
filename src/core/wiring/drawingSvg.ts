import type { Drawing, Shape } from './drawing'
import { textBox } from './drawingFigures'

/** One element of an SVG picture, for whoever writes it: a screen, a file. */
export interface SvgNode {
  tag: 'rect' | 'path' | 'circle' | 'text'
  attributes: Record<string, string | number>
  text?: string
  line: string | null
  signalId: string | null
}

/** Colours and fonts of a picture. */
export interface DrawingLook {
  paper: string
  ink: string
  soft: string
  font: string
  mono: string
  hue: (signalId: string | null) => string
  thread: (signalId: string | null) => string
}

const round = (n: number) => Math.round(n * 100) / 100

/** How a text is set. */
interface Lettering {
  size: number
  fill: string
  anchor: string
  font: string
  weight: number
}

/** The elements of a drawing in the order they are painted. */
export function svgNodes({ shapes }: Drawing, look: DrawingLook): SvgNode[] {
  const order: Shape['kind'][] = ['box', 'wire', 'dot', 'terminal', 'symbol', 'ferrule', 'net', 'text']
  return order.flatMap((kind) => shapes.filter((s) => s.kind === kind)).flatMap((s) => nodesOf(s, look))
}

function nodesOf(s: Shape, look: DrawingLook): SvgNode[] {
  const node = (tag: SvgNode['tag'], attributes: SvgNode['attributes'], text?: string): SvgNode => ({
    tag,
    attributes,
    text,
    line: 'line' in s ? s.line : null,
    signalId: 'signalId' in s ? s.signalId : null,
  })
  const label = ([x, y]: readonly [number, number], text: string, look: Lettering) =>
    node(
      'text',
      {
        x: round(x),
        y: round(y),
        'text-anchor': look.anchor,
        'font-family': look.font,
        'font-size': look.size,
        'font-weight': look.weight,
        fill: look.fill,
      },
      text,
    )
  const bold = (size: number, fill: string): Lettering => ({
    size,
    fill,
    anchor: 'middle',
    font: look.mono,
    weight: 700,
  })
  switch (s.kind) {
    case 'box':
      return [
        node('rect', {
          x: s.x,
          y: s.y,
          width: s.width,
          height: round(s.height),
          fill: look.paper,
          stroke: look.ink,
          'stroke-width': 1.8,
        }),
      ]
    case 'terminal':
      return [
        node('rect', {
          x: s.x - 6.5,
          y: s.y - 6.5,
          width: 13,
          height: 13,
          fill: look.paper,
          stroke: look.ink,
          'stroke-width': 1.8,
        }),
      ]
    case 'dot':
      return [node('circle', { cx: s.x, cy: round(s.y), r: 4.5, fill: look.hue(s.signalId) })]
    case 'wire': {
      const [[x = 0, y = 0] = [], [x2 = 0] = []] = s.points
      if (s.thread)
        return [
          node('rect', {
            x: Math.min(x, x2),
            y: y - 3.5,
            width: Math.abs(x2 - x),
            height: 7,
            fill: look.thread(s.signalId),
          }),
        ]
      return [
        node('path', {
          d: `M${s.points.map(([px, py]) => `${round(px)} ${round(py)}`).join('L')}`,
          stroke: look.hue(s.signalId),
          'stroke-width': 2.2,
          fill: 'none',
        }),
      ]
    }
    case 'symbol':
      return symbolNodes(s, look, node)
    case 'ferrule':
      return [
        node('rect', { x: round(s.x), y: s.y, width: s.width, height: 22, fill: look.hue(s.signalId) }),
        node('path', {
          d: `M${round(s.x + 1.5)} ${s.y}v22M${round(s.x + s.width - 1.5)} ${s.y}v22`,
          stroke: '#000',
          'stroke-opacity': 0.28,
          'stroke-width': 3,
        }),
        label([s.x + s.width / 2, s.y + 16.5], s.text, bold(15, '#fff')),
      ]
    case 'net':
      return [
        node('rect', {
          x: round(s.x),
          y: s.y,
          width: round(s.width),
          height: 22,
          fill: look.paper,
          stroke: look.ink,
          'stroke-width': 1.5,
        }),
        label([s.x + s.width / 2, s.y + 16], s.text, bold(14, look.ink)),
      ]
    case 'text': {
      if (s.text === '') return []
      const box = textBox(s)
      const ground = s.ground
        ? [
            node('rect', {
              x: round(box.x - 3),
              y: round(box.y - 3),
              width: round(box.width + 6),
              height: round(box.height + 6),
              fill: look.paper,
            }),
          ]
        : []
      return [
        ...ground,
        label([s.x, s.y], s.text, {
          size: s.size,
          fill: s.soft ? look.soft : look.ink,
          anchor: s.anchor,
          font: s.mono ? look.mono : look.font,
          weight: s.bold ? 640 : 420,
        }),
      ]
    }
  }
}

function symbolNodes(
  s: Extract<Shape, { kind: 'symbol' }>,
  look: DrawingLook,
  node: (tag: SvgNode['tag'], attributes: SvgNode['attributes'], text?: string) => SvgNode,
): SvgNode[] {
  const line = { stroke: look.hue(s.signalId), 'stroke-width': 2.2, fill: look.paper }
  const { x, y } = s
  if (s.symbol === 'capacitor') {
    return [
      node('rect', { x: x - 9, y: y - 3, width: 18, height: 6, fill: look.paper }),
      node('path', {
        d: `M${x} ${y - 16}V${y - 3}M${x - 9} ${y - 3}h18M${x - 9} ${y + 3}h18M${x} ${y + 3}v14`,
        ...line,
        fill: 'none',
      }),
    ]
  }
  if (s.symbol === 'diode') {
    return [
      node('path', {
        d: `M${x} ${y - 16}v6M${x - 9} ${y + 8}h18l-9 -18zM${x - 9} ${y - 10}h18M${x} ${y + 8}v9`,
        ...line,
      }),
    ]
  }
  const [w, h] = s.upright ? [s.width, 33] : [s.width, s.text === '' ? 20 : 24]
  const frame = node('rect', { x: round(x - w / 2), y: round(y - h / 2), width: w, height: h, ...line })
  return s.text === ''
    ? [frame]
    : [
        frame,
        node(
          'text',
          {
            x,
            y: y + 5,
            'text-anchor': 'middle',
            'font-family': look.mono,
            'font-size': 14,
            'font-weight': 700,
            fill: look.ink,
          },
          s.text,
        ),
      ]
}

const escape = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

/**
 * The drawing as an SVG file: words as words, nothing fetched from elsewhere. A page that has the fonts names them; a
 * file takes what is there.
 */
export function drawingSvg(
  drawing: Drawing,
  title: string,
  hue: (signalId: string | null) => string,
  fonts = { font: 'sans-serif', mono: 'monospace' },
): string {
  const look: DrawingLook = { paper: '#fff', ink: '#111', soft: '#555', ...fonts, hue, thread: hue }
  const nodes = svgNodes(drawing, look).map(({ tag, attributes, text }) => {
    const list = Object.entries(attributes)
      .map(([k, v]) => `${k}="${escape(String(v))}"`)
      .join(' ')
    return text === undefined ? `<${tag} ${list}/>` : `<${tag} ${list}>${escape(text)}</${tag}>`
  })
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${drawing.width} ${Math.ceil(drawing.height)}" role="img"><title>${escape(title)}</title><rect width="100%" height="100%" fill="#fff"/>${nodes.join('')}</svg>\n`
}
