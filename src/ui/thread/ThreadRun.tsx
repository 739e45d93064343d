import { HUES, hueOf } from '../../core/palette/palette'
import type { CellState } from '../../core/loom/threadRows'

/** Two plies twisted, one pattern per hue; drawn once per page and referred to by every run. */
export function ThreadPatterns() {
  return (
    <svg width="0" height="0" aria-hidden="true" style={{ position: 'absolute' }}>
      <defs>
        {HUES.map((hue, i) => (
          <pattern key={hue} id={`ply-${i}`} width="11" height="7" patternUnits="userSpaceOnUse">
            <rect width="11" height="7" fill={hue} />
            <path
              d="M-2 7.5 C 1 6.5, 2.500 .5, 5.500 -.5 M9 7.500 C 12 6.500, 13.500 .5, 16.500 -.5"
              stroke="#fff"
              strokeOpacity=".5"
              strokeWidth="1.5"
              fill="none"
            />
            <path
              d="M3.200 7.500 C 6.200 6.500, 7.700 .5, 10.700 -.5"
              stroke="#000"
              strokeOpacity=".28"
              strokeWidth="1.200"
              fill="none"
            />
            <path d="M0 .4 H11 M0 6.600 H11" stroke="#000" strokeOpacity=".22" strokeWidth=".8" />
          </pattern>
        ))}
      </defs>
    </svg>
  )
}

const MIDDLE = 11

/**
 * One column's length of a thread: spun where it is settled, a loose strand where it is open, a knot where it is
 * contested.
 */
export function ThreadRun({ signal, state }: { signal: { hue: number }; state: CellState }) {
  const hue = hueOf(signal)
  return (
    <svg className="run" height="22" aria-hidden="true">
      {state === 'open' ? (
        <line
          x1="0"
          y1={MIDDLE}
          x2="100%"
          y2={MIDDLE}
          stroke={hue}
          strokeWidth="1.6"
          strokeDasharray="1.500 6"
          strokeLinecap="round"
        />
      ) : (
        <svg y={MIDDLE - 3.5} width="100%" height="7">
          <rect width="100%" height="7" fill={`url(#ply-${signal.hue})`} />
        </svg>
      )}
      {state === 'contested' && (
        <svg x="50%" overflow="visible">
          <Knot hue={hue} />
        </svg>
      )}
    </svg>
  )
}

/** An overhand knot, 40 px wide around x = 0: the strand goes over, around and through itself. */
function Knot({ hue }: { hue: string }) {
  const strand = (d: string) => (
    <>
      <path d={d} fill="none" stroke="var(--paper)" strokeWidth="9" />
      <path d={d} fill="none" stroke={hue} strokeWidth="5.500" />
      <path d={d} fill="none" stroke="#fff" strokeOpacity=".45" strokeWidth="1.300" strokeDasharray="3 3.500" />
    </>
  )
  return (
    <g transform="translate(-20 0)">
      <rect x="0" y="2" width="40" height="18" fill="var(--paper)" />
      {strand('M0 11 C 9 11, 12 19, 21 19 C 30 19, 33 12, 27 7')}
      {strand('M13 7 C 17 1, 25 1, 29 5 C 33 9, 32 11, 40 11')}
      {strand('M27 7 C 22 3, 14 3, 11.500 9 C 10 13, 13 16, 16 15.500')}
    </g>
  )
}

/** All threads of a node in small, for the shop: spun, loose and knotted in their columns. */
export function SmallThreads({
  rows,
}: {
  rows: { signalId: string; signal: { hue: number }; cells: Record<string, { state: CellState }> }[]
}) {
  const columns = ['part', 'terminals', 'wires', 'pins', 'conditioning', 'calibration', 'entity']
  const pitch = rows.length > 8 ? Math.max(3, 64 / rows.length) : 9
  const width = 266
  const step = width / columns.length
  const thick = rows.length > 8 ? 3 : 4
  return (
    <svg width={width} height={Math.max(20, rows.length * pitch + 8)} aria-hidden="true" className="d-block">
      {rows.map((row, r) => {
        const y = 6 + r * pitch
        const hue = hueOf(row.signal)
        return (
          <g key={row.signalId}>
            {columns.map((column, c) => {
              const open = row.cells[column]?.state === 'open'
              return (
                <line
                  key={column}
                  x1={c * step - (open ? 0 : 0.4)}
                  x2={(c + 1) * step + (open ? 0 : 0.4)}
                  y1={y}
                  y2={y}
                  stroke={hue}
                  strokeWidth={open ? 1.4 : thick}
                  strokeDasharray={open ? '1.5 5' : undefined}
                />
              )
            })}
            {columns.map(
              (column, c) =>
                row.cells[column]?.state === 'contested' && (
                  <circle
                    key={column}
                    cx={(c + 0.5) * step}
                    cy={y}
                    r="4.500"
                    fill="var(--paper)"
                    stroke={hue}
                    strokeWidth="2.600"
                  />
                ),
            )}
          </g>
        )
      })}
    </svg>
  )
}
