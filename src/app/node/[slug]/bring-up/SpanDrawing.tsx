import { meterWords } from '@/core/bringup/verdict'
import type { BringUpStep } from '@/core/bringup/step'

const WIDTH = 640
const LEFT = 40
const RIGHT = 600

type Value = Extract<BringUpStep['expect'], { kind: 'value' }>

/** The allowed span on a line, and what was found on it. */
export function SpanDrawing({ expect, found }: { expect: Value; found: number | null }) {
  const { unit, min, max } = expect
  const open = !Number.isFinite(max)
  // With no upper end the line is of decades; otherwise it reaches a third beyond both ends, and to what was found.
  const top = open ? Math.log10(min * 1000) : max + (max - min) * 0.6
  const bottom = open ? Math.log10(Math.max(0.1, min / 1000)) : Math.min(unit === 'dBm' ? -100 : 0, min)
  const place = (v: number) => (open ? Math.log10(Math.max(0.1, v)) : v)
  const at = (v: number) =>
    LEFT + ((place(v) - bottom) / (Math.max(top, place(found ?? min)) - bottom)) * (RIGHT - LEFT)
  const ok = found !== null && found >= min && found <= max
  const clamp = (x: number) => Math.max(LEFT, Math.min(RIGHT, x))
  const to = open ? RIGHT : at(max)
  const label = found === null ? '' : meterWords(unit, found)
  const x = found === null ? 0 : clamp(at(found))
  return (
    <svg
      className="span-drawing"
      viewBox={`0 0 ${WIDTH} 96`}
      role="img"
      aria-label={`allowed from ${meterWords(unit, min)} to ${meterWords(unit, max)}${found === null ? '' : `, found ${label}`}`}
    >
      <rect x={at(min)} y={38} width={Math.max(4, to - at(min))} height={24} className="allowed" />
      <line x1={LEFT} x2={RIGHT} y1={50} y2={50} />
      <text x={clamp(at(min))} y={84} textAnchor="middle">
        {meterWords(unit, min)}
      </text>
      {!open && (
        <text
          x={clamp(to)}
          y={84}
          textAnchor={Math.abs(to - at(min)) < 90 ? 'start' : 'middle'}
          dx={Math.abs(to - at(min)) < 90 ? 46 : 0}
        >
          {meterWords(unit, max)}
        </text>
      )}
      {found !== null && (
        <>
          <path d={`M ${x - 8} 20 L ${x + 8} 20 L ${x} 34 Z`} className="mark" />
          <text x={x} y={14} textAnchor={anchorAt(x)} className={ok ? 'found' : 'found is-wrong'}>
            {label}
          </text>
        </>
      )}
    </svg>
  )
}

function anchorAt(x: number): 'start' | 'middle' | 'end' {
  if (x > 480) return 'end'
  return x < 120 ? 'start' : 'middle'
}
