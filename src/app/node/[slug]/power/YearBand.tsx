'use client'
import type { Drawn } from '@/core/energy/draws'
import { MONTH_H } from '@/core/units/hours'
import type { Spread } from '@/core/energy/spread'

const WIDTH = 920
/** Months on the axis, and how far its marks stand apart. */
const STEPS = [
  [3, 0.25],
  [12, 1],
  [36, 6],
] as const
const SCALES = [1, 3, 6, 12, 24, 36, 60, 120]

interface YearBandProps {
  three: Spread
  /** The same outside at −5 °C. */
  winter: Drawn | null
  drawn: Drawn | null
  /** The life somebody asks for. */
  asked: { hours: number; words: string } | null
}

/** The time it lasts as a band over months: nine of ten reach its beginning, half the line, one of ten its end. */
export function YearBand({ three, winter, drawn, asked }: YearBandProps) {
  const far = Math.max(drawn?.p90 ?? three.high, asked?.hours ?? 0) / MONTH_H
  const months = SCALES.find((m) => m >= far * 1.15) ?? 120
  const x = (h: number) => Math.min(WIDTH, (h / MONTH_H / months) * WIDTH)
  const step = STEPS.find(([most]) => months <= most)?.[1] ?? 12
  const ticks = Array.from({ length: Math.floor(months / step) + 1 }, (_, i) => i * step)
  const [from, middle, to] = drawn ? [drawn.p10, drawn.p50, drawn.p90] : [three.low, three.likely, three.high]
  const end = middle > (months * MONTH_H) / 2
  return (
    <section aria-label="how long it lasts" className="year" tabIndex={0}>
      <svg
        viewBox={`-2 0 ${WIDTH + 6} 142`}
        role="img"
        aria-label={`from ${(from / MONTH_H).toFixed(1)} to ${(to / MONTH_H).toFixed(1)} months, half reach ${(middle / MONTH_H).toFixed(1)}`}
      >
        <rect x={x(from)} y={26} width={Math.max(2, x(to) - x(from))} height={26} className="band" />
        <line x1={x(middle)} x2={x(middle)} y1={16} y2={52} className="middle" />
        <text x={x(middle) + (end ? -6 : 6)} y={20} textAnchor={end ? 'end' : 'start'} className="name">
          half of such nodes last longer
        </text>
        {asked && (
          <>
            <line x1={x(asked.hours)} x2={x(asked.hours)} y1={30} y2={110} className="asked" />
            <text x={x(asked.hours) - 6} y={108} textAnchor="end" className="name">
              asked: {asked.words}
            </text>
          </>
        )}
        {winter && (
          <g data-winter={(winter.p50 / MONTH_H).toFixed(2)}>
            <line x1={x(winter.p10)} x2={x(winter.p90)} y1={112} y2={112} className="winter" />
            <line x1={x(winter.p50)} x2={x(winter.p50)} y1={104} y2={120} className="middle" />
            <text x={Math.min(x(winter.p10), WIDTH - 330)} y={137} className="soft">
              outside at −5 °C: {(winter.p10 / MONTH_H).toFixed(1)} to {(winter.p90 / MONTH_H).toFixed(1)} months
            </text>
          </g>
        )}
        <line x1={0} x2={WIDTH} y1={52} y2={52} className="axis" />
        {ticks.map((m) => (
          <g key={m}>
            <line x1={(m / months) * WIDTH} x2={(m / months) * WIDTH} y1={52} y2={60} className="axis" />
            {(ticks.length <= 13 || m % (step * 2) === 0) && (
              <text x={(m / months) * WIDTH} y={78} textAnchor={anchorAt(m, months)} className="soft">
                {m}
              </text>
            )}
          </g>
        ))}
        <text x={WIDTH} y={94} textAnchor="end" className="soft">
          months
        </text>
      </svg>
    </section>
  )
}

/** Words at either end of the axis stay inside the drawing. */
function anchorAt(m: number, months: number): 'start' | 'middle' | 'end' {
  if (m === 0) return 'start'
  return m === months ? 'end' : 'middle'
}
