'use client'
import type { Board, BoardPosition } from '@/core/catalog/board'
import type { Design } from '@/core/design/design'
import { hueOf } from '@/core/palette/palette'
import type { LineView } from './Pins'

interface BoardEdgeProps { board: Board; design: Design; lines: LineView[]; chosen: string | null; onChoose: (line: string) => void }

const WIDTH = 930
const TAG_X = 92

/** The board from above, positions at scale and in physical order, printed labels large; the threads that end here beside it. */
export function BoardEdge({ board, design, lines, chosen, onChoose }: BoardEdgeProps) {
  const { outlineMm: o } = board
  const perSide = Math.max(...board.positions.map((p) => p.position))
  const scale = Math.min(14.6, Math.max(12, 556 / (perSide * o.pitch)))
  const pitch = o.pitch * scale
  const height = perSide * pitch + 46
  const boardWidth = 250
  const left = (WIDTH - boardWidth) / 2
  const y = (p: BoardPosition) => 36 + (p.position - 0.5) * pitch
  const byPin = new Map(lines.flatMap((l) => (l.pin === undefined ? [] : [[l.pin, l] as const])))
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height + 18}`} width="100%" style={{ maxWidth: WIDTH, display: 'block', margin: '4px auto 0' }} role="group" aria-label={`${board.name}, component side, ${board.ends.top} up`}>
      <rect x={left} y="12" width={boardWidth} height={height - 10} fill="var(--sheet)" stroke="var(--ink)" strokeWidth="2" />
      <End x={WIDTH / 2} y={12} text={board.ends.top} />
      <End x={WIDTH / 2} y={height + 2} text={board.ends.bottom} />
      {board.positions.map((p) => {
        const line = byPin.get(p.label)
        const isLeft = p.side === 'left'
        const edge = isLeft ? left : left + boardWidth
        return (
          <g key={`${p.side}${p.position}`}>
            <text x={edge + (isLeft ? 27 : -27)} y={y(p) + 6.5} textAnchor={isLeft ? 'start' : 'end'} fontFamily="var(--bs-font-monospace)" fontSize="18.5" fontWeight={line ? 750 : 450} fill={line ? 'var(--ink)' : 'var(--soft)'}>{p.label}</text>
            {p.kind === 'pin' && <text x={edge + (isLeft ? 112 : -112)} y={y(p) + 5.500} textAnchor={isLeft ? 'end' : 'start'} fontFamily="var(--bs-font-monospace)" fontSize="14" fill="var(--soft)">{p.chip}</text>}
            {p.kind === 'pin'
              ? <circle cx={edge} cy={y(p)} r="8" fill={line ? hue(design, line) : 'var(--paper)'} stroke={line ? hue(design, line) : 'var(--soft)'} strokeWidth="2" />
              : <rect x={edge - 7.500} y={y(p) - 7.500} width="15" height="15" fill="var(--paper)" stroke="var(--soft)" strokeWidth="2" />}
            {line ? <Thread line={line} design={design} x={edge} y={y(p)} isLeft={isLeft} chosen={line.key === chosen} onChoose={onChoose} /> : <Quirk position={p} keptFree={design.keptFree[p.label] === true} x={edge} y={y(p)} isLeft={isLeft} />}
          </g>
        )
      })}
    </svg>
  )
}

function hue(design: Design, line: LineView): string {
  const signal = line.signalId === null ? undefined : design.signals[line.signalId]
  return signal ? hueOf(signal) : 'var(--ink)'
}

function End({ x, y, text }: { x: number; y: number; text: string }) {
  const width = text.length * 9 + 22
  return (
    <g>
      <rect x={x - width / 2} y={y - 11} width={width} height="23" fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.500" />
      <text x={x} y={y + 5.500} textAnchor="middle" fontFamily="var(--bs-font-monospace)" fontSize="14" fill="var(--soft)">{text}</text>
    </g>
  )
}

interface ThreadProps { line: LineView; design: Design; x: number; y: number; isLeft: boolean; chosen: boolean; onChoose: (line: string) => void }

function Thread({ line, design, x, y, isLeft, chosen, onChoose }: ThreadProps) {
  const out = isLeft ? -1 : 1
  const signal = line.signalId === null ? undefined : design.signals[line.signalId]
  const tagWidth = line.tag.length * 10 + 16
  const tagX = x + out * TAG_X
  const name = `${line.name}${line.locked ? ', locked' : ''}`
  return (
    <g
      className="pinrow" role="button" tabIndex={0} aria-pressed={chosen} aria-label={`${line.tag} ${name} on ${line.pin ?? ''}`}
      onClick={() => onChoose(line.key)} onKeyDown={(e) => { if (e.key === 'Enter' || e.key === ' ') { e.preventDefault(); onChoose(line.key) } }}
    >
      <rect className="halo" x={isLeft ? 8 : tagX - 10} y={y - 17} width={isLeft ? tagX + tagWidth - 4 : WIDTH - tagX + 2} height="34" fill={chosen ? '#fff' : 'transparent'} stroke={chosen ? 'var(--ink)' : 'transparent'} strokeWidth="1.500" />
      <svg x={isLeft ? tagX + tagWidth : x + 8} y={y - 3.500} width={TAG_X - 8 - (isLeft ? tagWidth : 0)} height="7"><rect width="100%" height="7" fill={signal ? `url(#ply-${signal.hue})` : 'var(--ink)'} /></svg>
      <rect x={tagX} y={y - 11} width={tagWidth} height="22" fill={hue(design, line)} />
      <rect x={tagX} y={y - 11} width="3" height="22" fill="#000" opacity=".28" /><rect x={tagX + tagWidth - 3} y={y - 11} width="3" height="22" fill="#000" opacity=".28" />
      <text x={tagX + tagWidth / 2} y={y + 5.500} textAnchor="middle" fill="#fff" fontFamily="var(--bs-font-monospace)" fontSize="15" fontWeight="700">{line.tag}</text>
      <text x={isLeft ? tagX - 9 : tagX + tagWidth + 9} y={y + 5.500} textAnchor={isLeft ? 'end' : 'start'} fontSize="16" fontWeight="600">{name}</text>
    </g>
  )
}

/** What is special about a free pin, in one word; the whole reason on hover. */
function Quirk({ position, keptFree, x, y, isLeft }: { position: BoardPosition; keptFree: boolean; x: number; y: number; isLeft: boolean }) {
  const quirk = position.kind === 'pin' ? position.quirks[0] : undefined
  const word = keptFree ? 'kept free' : quirk?.word
  if (word === undefined || (word === 'analog off with Wi-Fi' && !keptFree)) return null
  return <text x={x + (isLeft ? -20 : 20)} y={y + 5} textAnchor={isLeft ? 'end' : 'start'} fontSize="14.500" fill="var(--soft)"><title>{quirk?.reason}</title>{word}</text>
}
