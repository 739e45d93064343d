'use client'
import { useRef } from 'react'
import { type Board, type BoardPin, type BoardPosition, pinsOf } from '@/core/catalog/board'
import type { Design } from '@/core/model/design'
import { hueOf } from '@/core/palette/palette'
import type { LineView } from './Pins'

export interface Aim {
  line: string
  pin: string
}

interface BoardEdgeProps {
  board: Board
  design: Design
  lines: LineView[]
  chosen: string | null
  onChoose: (line: string) => void
  /** Seen from the solder side: left and right change places. */
  turned: boolean
  /** Every function of every pin, not only what matters here. */
  all: boolean
  /** Where the chosen line would go if it were let go now. */
  aim: Aim | null
  onAim: (aim: Aim | null) => void
  onDrop: (aim: Aim) => void
  onPin: (pin: string) => void
}

const WIDTH = 930
const TAG_X = 92
/** Farther than this from a pin a drag aims at none, in the drawing's units. */
const REACH = 26

/**
 * The board at scale in physical order, printed labels large; the threads that end here beside it. A thread is moved by
 * hand or by keys.
 */
export function BoardEdge({
  board,
  design,
  lines,
  chosen,
  onChoose,
  turned,
  all,
  aim,
  onAim,
  onDrop,
  onPin,
}: BoardEdgeProps) {
  const svg = useRef<SVGSVGElement>(null)
  const dragged = useRef<string | null>(null)
  const { outlineMm: o } = board
  const perSide = Math.max(...board.positions.map((p) => p.position))
  const scale = Math.min(14.6, Math.max(10.4, 556 / (perSide * o.pitch)))
  const pitch = o.pitch * scale
  const height = perSide * pitch + 46
  const boardWidth = 250
  const left = (WIDTH - boardWidth) / 2
  const y = (p: BoardPosition) => 36 + (p.position - 0.5) * pitch
  const atLeft = (p: BoardPosition) => (p.side === 'left') !== turned
  const edge = (p: BoardPosition) => (atLeft(p) ? left : left + boardWidth)
  const byPin = new Map(lines.flatMap((l) => (l.pin === undefined ? [] : [[l.pin, l] as const])))
  const pins = pinsOf(board)

  const nearest = (e: React.PointerEvent): string | null => {
    const matrix = svg.current?.getScreenCTM()
    if (!matrix) return null
    const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix.inverse())
    const [best] = pins
      .map((p) => ({ p, d: Math.hypot(edge(p) - at.x, (y(p) - at.y) * 1.6) }))
      .sort((a, b) => a.d - b.d)
    return best && best.d < REACH * 2.2 ? best.p.label : null
  }
  const step = (line: LineView, by: number) => {
    const ordered = [...pins].sort((a, b) => Number(atLeft(b)) - Number(atLeft(a)) || a.position - b.position)
    const from = ordered.findIndex((p) => p.label === (aim?.line === line.key ? aim.pin : line.pin))
    const next = ordered[(from + by + ordered.length) % ordered.length]
    if (next) onAim({ line: line.key, pin: next.label })
  }
  const keys = (line: LineView) => (e: React.KeyboardEvent) => {
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') step(line, e.key === 'ArrowDown' ? 1 : -1)
    else if (e.key === 'Enter' && aim?.line === line.key) onDrop(aim)
    else if (e.key === 'Escape' && aim) onAim(null)
    else if (e.key === 'Enter' || e.key === ' ') onChoose(line.key)
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${height + 18}`}
      width="100%"
      className="d-block mt-1 me-auto mb-0 ms-auto"
      style={{ maxWidth: WIDTH, touchAction: 'none' }}
      role="group"
      aria-label={`${board.name}, ${turned ? 'solder' : 'component'} side, ${board.ends.top} up`}
      data-turned={turned}
      onPointerMove={(e) => {
        if (dragged.current === null) return
        const pin = nearest(e)
        onAim(pin === null ? null : { line: dragged.current, pin })
      }}
      onPointerUp={(e) => {
        const line = dragged.current
        dragged.current = null
        const pin = line === null ? null : nearest(e)
        if (line === null) return
        onAim(null)
        if (pin !== null && pin !== lines.find((l) => l.key === line)?.pin) onDrop({ line, pin })
      }}
      onPointerLeave={() => {
        dragged.current = null
      }}
    >
      <rect
        x={left}
        y="12"
        width={boardWidth}
        height={height - 10}
        fill="var(--sheet)"
        stroke="var(--ink)"
        strokeWidth="2"
        strokeDasharray={turned ? '9 5' : undefined}
      />
      <End x={WIDTH / 2} y={12} text={board.ends.top} />
      <End x={WIDTH / 2} y={height + 2} text={board.ends.bottom} />
      {turned && (
        <text x={WIDTH / 2} y={height / 2} textAnchor="middle" fontSize="15" fill="var(--soft)">
          seen from the solder side
        </text>
      )}
      {board.positions.map((p) => {
        const line = byPin.get(p.label)
        const isLeft = atLeft(p)
        const aimed = p.kind === 'pin' && aim?.pin === p.label
        return (
          <g key={`${p.side}${p.position}`}>
            <text
              x={edge(p) + (isLeft ? 27 : -27)}
              y={y(p) + 6.5}
              textAnchor={isLeft ? 'start' : 'end'}
              fontFamily="var(--bs-font-monospace)"
              fontSize={pitch < 30 ? 16.5 : 18.5}
              fontWeight={line ? 750 : 450}
              fill={line ? 'var(--ink)' : 'var(--soft)'}
            >
              {p.label}
            </text>
            {p.kind === 'pin' && String(p.chip) !== p.label.replace(/^GP/, '') && (
              <text
                x={edge(p) + (isLeft ? 112 : -112)}
                y={y(p) + 5.5}
                textAnchor={isLeft ? 'end' : 'start'}
                fontFamily="var(--bs-font-monospace)"
                fontSize="14"
                fill="var(--soft)"
              >
                {p.chip}
              </text>
            )}
            {aimed && (
              <circle
                cx={edge(p)}
                cy={y(p)}
                r="13"
                fill="none"
                stroke="var(--ink)"
                strokeWidth="2.500"
                strokeDasharray="4 3"
              />
            )}
            {p.kind === 'pin' ? (
              <circle
                cx={edge(p)}
                cy={y(p)}
                r="8"
                fill={line ? hue(design, line) : 'var(--paper)'}
                stroke={line ? hue(design, line) : 'var(--soft)'}
                strokeWidth="2"
              />
            ) : (
              <rect
                x={edge(p) - 7.5}
                y={y(p) - 7.5}
                width="15"
                height="15"
                fill="var(--paper)"
                stroke="var(--soft)"
                strokeWidth="2"
              />
            )}
            {line ? (
              <Thread
                line={line}
                design={design}
                x={edge(p)}
                y={y(p)}
                isLeft={isLeft}
                chosen={line.key === chosen}
                onChoose={onChoose}
                onKeyDown={keys(line)}
                onGrab={() => {
                  dragged.current = line.key
                  onChoose(line.key)
                }}
              />
            ) : (
              p.kind === 'pin' && (
                <FreePin
                  pin={p}
                  all={all}
                  keptFree={design.keptFree[p.label] === true}
                  x={edge(p)}
                  y={y(p)}
                  isLeft={isLeft}
                  onPin={onPin}
                />
              )
            )}
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
      <rect
        x={x - width / 2}
        y={y - 11}
        width={width}
        height="23"
        fill="var(--paper)"
        stroke="var(--ink)"
        strokeWidth="1.500"
      />
      <text
        x={x}
        y={y + 5.5}
        textAnchor="middle"
        fontFamily="var(--bs-font-monospace)"
        fontSize="14"
        fill="var(--soft)"
      >
        {text}
      </text>
    </g>
  )
}

interface ThreadProps {
  line: LineView
  design: Design
  x: number
  y: number
  isLeft: boolean
  chosen: boolean
  onChoose: (line: string) => void
  onKeyDown: (e: React.KeyboardEvent) => void
  onGrab: () => void
}

function Thread({ line, design, x, y, isLeft, chosen, onChoose, onKeyDown, onGrab }: ThreadProps) {
  const signal = line.signalId === null ? undefined : design.signals[line.signalId]
  const tagWidth = line.tag.length * 10 + 16
  const tagX = isLeft ? x - TAG_X : x + TAG_X
  const room = Math.floor((isLeft ? tagX - 22 : WIDTH - tagX - tagWidth - 22) / 8.4)
  const full = `${line.name}${line.locked ? ', locked' : ''}`
  const name = full.length > room ? `${full.slice(0, room - 1)}…` : full
  return (
    <g
      className="pinrow"
      role="button"
      tabIndex={0}
      aria-pressed={chosen}
      aria-label={`${line.tag} ${full} on ${line.pin ?? ''}`}
      aria-keyshortcuts="ArrowUp ArrowDown Enter"
      data-line={line.key}
      style={{ cursor: 'grab' }}
      onClick={() => onChoose(line.key)}
      onKeyDown={onKeyDown}
      onPointerDown={onGrab}
    >
      <title>{full}</title>
      <rect
        className="halo"
        x={isLeft ? 8 : tagX - 10}
        y={y - 15}
        width={isLeft ? tagX + tagWidth - 4 : WIDTH - tagX + 2}
        height="30"
        fill={chosen ? '#fff' : 'transparent'}
        stroke={chosen ? 'var(--ink)' : 'transparent'}
        strokeWidth="1.500"
      />
      <svg
        x={isLeft ? tagX + tagWidth : x + 8}
        y={y - 3.5}
        width={Math.max(4, TAG_X - 8 - (isLeft ? tagWidth : 0))}
        height="7"
      >
        <rect width="100%" height="7" fill={signal ? `url(#ply-${signal.hue})` : 'var(--ink)'} />
      </svg>
      <rect x={tagX} y={y - 11} width={tagWidth} height="22" fill={hue(design, line)} />
      <rect x={tagX} y={y - 11} width="3" height="22" fill="#000" opacity=".28" />
      <rect x={tagX + tagWidth - 3} y={y - 11} width="3" height="22" fill="#000" opacity=".28" />
      <text
        x={tagX + tagWidth / 2}
        y={y + 5.5}
        textAnchor="middle"
        fill="#fff"
        fontFamily="var(--bs-font-monospace)"
        fontSize="15"
        fontWeight="700"
      >
        {line.tag}
      </text>
      <text
        x={isLeft ? tagX - 9 : tagX + tagWidth + 9}
        y={y + 5.5}
        textAnchor={isLeft ? 'end' : 'start'}
        fontSize="16"
        fontWeight="600"
      >
        {name}
      </text>
    </g>
  )
}

/** What is special about a free pin, by shape and word; everything it can do when that is asked for. */
function FreePin({
  pin,
  all,
  keptFree,
  x,
  y,
  isLeft,
  onPin,
}: {
  pin: BoardPin
  all: boolean
  keptFree: boolean
  x: number
  y: number
  isLeft: boolean
  onPin: (pin: string) => void
}) {
  const quirk = pin.quirks.find((q) => q.id !== 'analog-with-radio')
  const freeWord = keptFree ? 'kept free' : (quirk?.word ?? '')
  const words = all ? functionWords(pin) : freeWord
  const at = isLeft ? x - 34 : x + 34
  return (
    <g
      role="button"
      tabIndex={0}
      className="pinrow"
      data-free={pin.label}
      aria-label={`${pin.label}, free${words ? `, ${words}` : ''}`}
      onClick={() => onPin(pin.label)}
      onKeyDown={(e) => {
        if (e.key === 'Enter' || e.key === ' ') {
          e.preventDefault()
          onPin(pin.label)
        }
      }}
    >
      <rect
        className="halo"
        x={isLeft ? 8 : x + 14}
        y={y - 13}
        width={isLeft ? x - 22 : WIDTH - x - 22}
        height="26"
        fill="transparent"
      />
      {quirk && !all && (
        <path
          d={isLeft ? `M${x - 17} ${y - 5}l-9 0 4.500 9z` : `M${x + 17} ${y - 5}l9 0 -4.500 9z`}
          fill={pin.strap ? 'var(--soft)' : 'none'}
          stroke="var(--soft)"
          strokeWidth="1.500"
        />
      )}
      {words && (
        <text x={at} y={y + 5} textAnchor={isLeft ? 'end' : 'start'} fontSize="14.500" fill="var(--soft)">
          {words}
        </text>
      )}
    </g>
  )
}

const WORDS: Partial<Record<BoardPin['functions'][number], string>> = {
  adc1: 'analog',
  adc2: 'analog without Wi-Fi',
  dac: 'voltage out',
  touch: 'touch',
  pwm: 'pulses',
}

function functionWords(pin: BoardPin): string {
  const reads = pin.functions.includes('in') ? 'reads' : ''
  const drives = pin.functions.includes('out') ? 'reads, drives' : reads
  return [
    drives,
    ...pin.functions.flatMap((f) => WORDS[f] ?? []),
    ...(pin.wake ? ['wakes'] : []),
    ...pin.mux.map((m) => `${m.bus}${m.controller} ${m.role}`),
  ]
    .filter(Boolean)
    .join(' · ')
}
