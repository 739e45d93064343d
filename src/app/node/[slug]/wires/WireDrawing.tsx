import type { Design } from '@/core/design/design'
import { hueOf } from '@/core/palette/palette'
import type { Drawing, DrawnBox, DrawnRun, DrawnStub } from '@/core/wiring/drawing'

const MONO = 'var(--bs-font-monospace)'
/** Where the resistor in the run stands, and where its far side joins. */
const SERIES = { x: 452, width: 54 }

/** The wiring drawn: strips left and right, threads between them, shared nets as stubs. */
export function WireDrawing({ drawing, design, focus }: { drawing: Drawing; design: Design; focus: string | null }) {
  return (
    <svg viewBox={`0 0 ${drawing.width} ${drawing.height}`} width="100%" style={{ display: 'block', maxWidth: drawing.width, margin: '6px auto 0' }} role="img" aria-label="wiring drawing; the schedule below says the same in words">
      {drawing.runs.map((r) => <Run key={r.line} run={r} drawing={drawing} design={design} dim={focus !== null && r.signalId !== focus} />)}
      {drawing.stubs.map((s) => <Stub key={`${s.direction}${s.x}${s.y}`} stub={s} />)}
      {drawing.boxes.map((b, i) => <Box key={`${b.title}${b.y}`} box={b} isBoard={i === 0} />)}
    </svg>
  )
}

function Box({ box, isBoard }: { box: DrawnBox; isBoard: boolean }) {
  const edge = isBoard ? box.x + box.width : box.x
  return (
    <g>
      <rect x={box.x} y={box.y} width={box.width} height={box.height} fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.800" />
      <text x={box.x + (isBoard ? 12 : 14)} y={box.y + 22} fontSize="16" fontWeight="680">{box.title}</text>
      {box.terminals.map((t) => (
        <g key={t.label + t.y}>
          <rect x={edge - 6.500} y={t.y - 6.500} width="13" height="13" fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.800" />
          <text x={edge + (isBoard ? -15 : 16)} y={t.y + 5.500} textAnchor={isBoard ? 'end' : 'start'} fontFamily={MONO} fontSize="16.500" fontWeight="620">{t.label}</text>
        </g>
      ))}
    </g>
  )
}

function Run({ run, drawing, design, dim }: { run: DrawnRun; drawing: Drawing; design: Design; dim: boolean }) {
  const signal = run.signalId === null ? undefined : design.signals[run.signalId]
  const hue = signal ? hueOf(signal) : 'var(--ink)'
  const [left, right] = [drawing.boardX + 7, drawing.partX - 7]
  const { y } = run
  return (
    <g opacity={dim ? 0.45 : 1}>
      <Thread x={left} width={right - left} y={y} fill={signal ? `url(#ply-${signal.hue})` : hue} />
      <Tag x={left + 26} y={y} text={run.farTag} fill={hue} />
      <Tag x={right - 26 - width(run.tag)} y={y} text={run.tag} fill={hue} />
      <Number x={right - 36 - width(run.tag) - width(run.numbers.near)} y={y} text={run.numbers.near} />
      {run.numbers.far && <Number x={left + 36 + width(run.farTag)} y={y} text={run.numbers.far} />}
      {run.series && (
        <g>
          <rect x={SERIES.x} y={y - 9} width={SERIES.width} height="18" fill="var(--paper)" stroke={hue} strokeWidth="2.200" />
          <text x={SERIES.x + SERIES.width / 2} y={y + 25} textAnchor="middle" fontSize="14.500" fontWeight="600">{run.series.name} {run.series.value}</text>
        </g>
      )}
      {run.branches.map((b) => (
        <g key={b.name}>
          <circle cx={b.x} cy={y} r="5" fill={hue} />
          <path d={`M${b.x} ${y} V${y + 16} M${b.x} ${y + 48} V${y + 62}`} stroke={hue} strokeWidth="2.200" />
          <rect x={b.x - 8} y={y + 15} width="16" height="33" fill="var(--paper)" stroke={hue} strokeWidth="2.200" />
          <text x={b.x + 16} y={y + 37} fontSize="14.500" fontWeight="600">{b.name} {b.value}</text>
          <Net x={b.x} y={y + 70} text={b.net} />
          <text x={b.x + 30} y={y + 75} fontFamily={MONO} fontSize="14" fill="var(--soft)">{b.number}</text>
        </g>
      ))}
    </g>
  )
}

function Stub({ stub }: { stub: DrawnStub }) {
  const out = stub.direction === 'left' ? -1 : 1
  const end = stub.x + out * 46
  return (
    <g>
      <path d={`M${stub.x + out * 7} ${stub.y} H${end}`} stroke="var(--ink)" strokeWidth="2" />
      <Net x={end + out * 19} y={stub.y} text={stub.net} />
      <text x={end + out * 46} y={stub.y + 5} textAnchor={out < 0 ? 'end' : 'start'} fontFamily={MONO} fontSize="14" fill="var(--soft)">{stub.number}</text>
    </g>
  )
}

function Net({ x, y, text }: { x: number; y: number; text: string }) {
  return (
    <g>
      <rect x={x - 20} y={y - 11} width="40" height="21" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.500" />
      <text x={x} y={y + 4.500} textAnchor="middle" fontFamily={MONO} fontSize="14" fontWeight="700">{text}</text>
    </g>
  )
}

const width = (text: string) => text.length * 9.5 + 15

function Tag({ x, y, text, fill }: { x: number; y: number; text: string; fill: string }) {
  const w = width(text)
  return (
    <g>
      <rect x={x} y={y - 11} width={w} height="22" fill={fill} />
      <path d={`M${x + 1.5} ${y - 11} v22 M${x + w - 1.5} ${y - 11} v22`} stroke="#000" strokeOpacity=".28" strokeWidth="3" />
      <text x={x + w / 2} y={y + 5.500} textAnchor="middle" fill="#fff" fontFamily={MONO} fontSize="15" fontWeight="700">{text}</text>
    </g>
  )
}

/** A wire's number, on the wire. */
function Number({ x, y, text }: { x: number; y: number; text: string }) {
  return (
    <g>
      <rect x={x} y={y - 10} width={width(text) - 3} height="20" fill="var(--paper)" />
      <text x={x + width(text) / 2 - 1.500} y={y + 5} textAnchor="middle" fontFamily={MONO} fontSize="14" fill="var(--soft)">{text}</text>
    </g>
  )
}

function Thread({ x, y, width: w, fill }: { x: number; y: number; width: number; fill: string }) {
  return <svg x={x} y={y - 3.500} width={w} height="7"><rect width="100%" height="7" fill={fill} /></svg>
}
