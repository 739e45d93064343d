'use client'
import type { Lever } from '@/core/energy/levers'
import type { PhaseCharge } from '@/core/energy/life'
import { amps } from '@/core/units/format'
import { seconds } from './quantities'

const WIDTH = 920
const HIGHEST = 130
/** The narrowest a phase is drawn, so that it can be seen at all. */
const NARROWEST = 5
/** A phase this wide has room for its words below it; the others stand in the list. */
const ROOM = 104

/** Where one cycle's charge goes: width is charge, height the current on a folded scale. Levers stand at their phase. */
export function CycleDrawing({ phases, levers }: { phases: PhaseCharge[]; levers: Lever[] }) {
  const most = Math.max(...phases.map((p) => p.a.likely))
  const height = (a: number): number => 14 + (HIGHEST - 14) * Math.max(0, 1 + Math.log10(a / most) / 3)
  const wide = phases.map((p) => Math.max(NARROWEST, p.share * (WIDTH - phases.length * 2)))
  const scale = (WIDTH - phases.length * 2) / wide.reduce((a, b) => a + b, 0)
  const drawn = phases.map((p, i) => {
    const at = wide.slice(0, i).reduce((sum, w) => sum + w * scale + 2, 0)
    return { p, at, w: (wide[i] ?? 0) * scale, h: height(p.a.likely) }
  })
  const biggest = phases.reduce((a, b) => (b.share > a.share ? b : a))
  const narrow = drawn.filter(({ w }) => w < ROOM)
  return (
    <section aria-label="one cycle" className="cycle" tabIndex={0}>
      <p className="soft mb-2">Where the charge of one cycle goes. Width is charge, height current, folded.</p>
      <svg viewBox={`0 0 ${WIDTH} ${HIGHEST + 108}`} role="img" aria-label={phases.map(phaseWords).join('; ')}>
        {drawn.map(({ p, at, w, h }) => (
          <g key={p.id} data-phase={p.id}>
            <rect x={at} y={HIGHEST + 26 - h} width={w} height={h} className={p.id === biggest.id ? 'most' : p.id} />
            {w >= 44 && (
              <text x={at + 2} y={HIGHEST + 18 - h} className="share">
                {Math.round(p.share * 100)} %
              </text>
            )}
            {w >= ROOM && (
              <>
                <text x={at + 2} y={HIGHEST + 48} className="name">
                  {p.words}
                </text>
                <text x={at + 2} y={HIGHEST + 68} className="soft">
                  {seconds(p.s.likely)}
                </text>
                <text x={at + 2} y={HIGHEST + 86} className="soft">
                  at {amps(p.a.likely)}
                </text>
              </>
            )}
          </g>
        ))}
      </svg>
      {narrow.length > 0 && (
        <p className="small soft mb-1">Too narrow for words: {narrow.map(({ p }) => phaseWords(p)).join('; ')}.</p>
      )}
      <ul className="phase-levers">
        {drawn.flatMap(({ p }) => {
          const here = levers.filter((l) => l.phase === p.id && l.gainH > 0).slice(0, 2)
          return here.length === 0
            ? []
            : [
                <li key={p.id}>
                  <b>{p.words}</b> ← {here.map((l) => l.words).join(', ')}
                </li>,
              ]
        })}
      </ul>
    </section>
  )
}

const phaseWords = (p: PhaseCharge): string =>
  `${p.words} ${Math.round(p.share * 100)} %, ${seconds(p.s.likely)} at ${amps(p.a.likely)}`
