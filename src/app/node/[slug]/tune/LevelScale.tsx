import type { Levels } from '@/core/catalog/levels'

const W = 720
const H = 92
const LINE = 52
const WIDEST = 4

interface Props {
  levels: Levels
  /** The reading now, in its own unit; null while it is unknown. */
  now: number | null
  range: { min: number; max: number }
  shown: (v: number) => string
  unit: string
}

/** The reading's own scale with its words above, the cuts with their bands, and where it stands now. */
export function LevelScale({ levels, now, range, shown, unit }: Props) {
  const { cuts, words, band } = levels
  const [low, high] = [cuts[0] ?? 0, cuts.at(-1) ?? 0]
  const wide = Math.max(high - low, band * 2, (range.max - range.min) / 20, 1e-6)
  const points = [low - wide, high + wide, ...(now !== null && Math.abs(now - low) < wide * WIDEST ? [now] : [])]
  const from = Math.max(Math.min(...points), Math.min(range.min, low - wide / 2))
  const to = Math.min(Math.max(...points), Math.max(range.max, high + wide / 2))
  const x = (v: number) => 8 + ((Math.min(Math.max(v, from), to) - from) / (to - from)) * (W - 16)
  const edges = [from, ...cuts, to]
  return (
    <svg
      className="level-scale"
      viewBox={`0 0 ${W} ${H}`}
      role="img"
      aria-label={`${words.map((w, i) => (i === 0 ? w : `from ${shown(cuts[i - 1] ?? 0)} ${unit} ${w}`)).join(', ')}; now ${now === null ? 'unknown' : `${shown(now)} ${unit}`}`}
    >
      <line x1={8} x2={W - 8} y1={LINE} y2={LINE} className="axis" />
      {words.map((w, i) => {
        const [a, b] = [x(edges[i] ?? from), x(edges[i + 1] ?? to)]
        const here = now !== null && now >= (i === 0 ? -Infinity : (cuts[i - 1] ?? 0)) && now < (cuts[i] ?? Infinity)
        return (
          <text key={w} x={(a + b) / 2} y={LINE - 22} textAnchor="middle" className={here ? 'here' : undefined}>
            {w}
          </text>
        )
      })}
      {cuts.map((c, i) => (
        <g key={i}>
          {band > 0 && (
            <rect
              x={x(c - band / 2)}
              width={Math.max(2, x(c + band / 2) - x(c - band / 2))}
              y={LINE - 12}
              height={24}
            />
          )}
          <line x1={x(c)} x2={x(c)} y1={LINE - 18} y2={LINE + 14} className="cut" />
          <text x={x(c)} y={LINE + 32} textAnchor="middle" className="number">
            {shown(c)} {unit}
          </text>
        </g>
      ))}
      {now !== null && (
        <path d={`M ${x(now)} ${LINE + 2} l 7 12 h -14 z`} className="now" data-now={shown(now)}>
          <title>{`now ${shown(now)} ${unit}`}</title>
        </path>
      )}
    </svg>
  )
}
