'use client'
import dynamic from 'next/dynamic'
import { useMemo, useState } from 'react'
import type { Span } from '@/core/threshold/price'
import { reducedIndices } from '@/core/trace/reduced'
import type { Mark } from '@/core/trace/trace'
import { CutHandle, type Plot, plotOf } from './CutHandle'
import { useWindow } from './useWindow'
import { lineChart, timeAxis, valueAxis } from '@/ui/theme/lineChart'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })
/** So many points are drawn; spikes and gaps are among them. */
const MOST_POINTS = 1500
/** So many spans of a kind. */
const MOST_SPANS = 200

interface TraceCurveProps {
  s: ArrayLike<number>
  value: ArrayLike<number | null>
  factor: number
  unit: string
  hue: string
  label: string
  marks: readonly Mark[]
  /** In the unit shown; null where there is no threshold to show. */
  cut?: number | null
  band?: number
  missed?: readonly Span[]
  wrong?: readonly Span[]
  decimals: number
  /** The threshold can be dragged on the curve; in the unit shown. */
  onCut?: (cut: number) => void
}

const INK = '#1b1a17'

/** A trace with everything that hangs on it: marks as spans, the threshold as a line, what would have gone wrong. */
export function TraceCurve(props: TraceCurveProps) {
  const { s, value, factor, unit, hue, label, marks, cut = null, band = 0, missed = [], wrong = [], decimals } = props
  const { window, controls } = useWindow(s)
  const [plot, setPlot] = useState<Plot | null>(null)
  const data = useMemo(() => {
    const part = { s: slice(s, window), value: slice(value, window) }
    return reducedIndices(part.value, MOST_POINTS).map((i): [number, number | null] => {
      const v = part.value[i] ?? NaN
      return [Number((part.s[i] ?? 0).toFixed(3)), Number.isNaN(v) ? null : v * factor]
    })
  }, [s, value, factor, window])
  const options = useMemo(() => {
    const drawn = (_: unknown, { globals }: { globals: unknown }) => {
      const now = plotOf(globals)
      // The same again draws nothing again.
      setPlot((before) => (JSON.stringify(before) === JSON.stringify(now) ? before : now))
    }
    const [begin, end] = [s[window[0]] ?? 0, s[window[1] - 1] ?? 0]
    /** What of these is on show, its ends at the ends of that, and no more than can be told apart. */
    const shown = <T extends Span>(spans: readonly T[]): T[] =>
      spans
        .flatMap((x) => {
          const part = { ...x, from: Math.max(begin, x.from), to: Math.min(end, x.to) }
          return part.to > part.from ? [part] : []
        })
        .slice(0, MOST_SPANS)
    const span = (x: Span, fill: string, opacity: number, text = '') => ({
      x: x.from,
      x2: x.to,
      fillColor: fill,
      borderColor: 'transparent',
      opacity,
      label: {
        text,
        orientation: 'horizontal',
        position: 'top',
        style: { color: INK, background: '#f6f2e8', fontSize: '13px' },
      },
    })
    return {
      ...lineChart(`trace-${label}`),
      chart: { ...lineChart(`trace-${label}`).chart, events: { mounted: drawn, updated: drawn } },
      colors: [hue],
      stroke: { width: 1.5, curve: 'straight' as const },
      tooltip: { x: { formatter: (at: number) => `${at.toFixed(2)} s` } },
      xaxis: { ...timeAxis(6, (at) => `${at.toFixed(end - begin < 20 ? 1 : 0)} s`), min: begin, max: end },
      yaxis: valueAxis(unit, (v) => v.toFixed(decimals)),
      annotations: {
        xaxis: [
          ...shown(marks).map((m) => span(m, hue, 0.14, m.word)),
          ...shown(missed).map((m) => span(m, INK, 0.45, 'missed')),
          ...shown(wrong).map((w) => span(w, INK, 0.14)),
        ],
        yaxis:
          cut === null
            ? []
            : [
                {
                  y: cut - band / 2,
                  y2: cut + band / 2 + (band === 0 ? 1e-9 : 0),
                  borderColor: INK,
                  fillColor: INK,
                  opacity: band === 0 ? 1 : 0.2,
                  strokeDashArray: 0,
                  label: {
                    text: `${cut.toFixed(decimals)} ${unit}`,
                    style: { color: '#fff', background: INK, fontSize: '13px' },
                  },
                },
              ],
      },
    }
  }, [hue, label, unit, decimals, marks, cut, band, missed, wrong, s, window])
  const series = useMemo(() => [{ name: label, data }], [label, data])
  const words = [...new Set(marks.map((m) => m.word))].join(', ')
  return (
    <div
      role="group"
      aria-label={`${label}: ${value.length} samples over ${(s[s.length - 1] ?? 0).toFixed(0)} s, ${marks.length} ${marks.length === 1 ? 'mark' : 'marks'}${words === '' ? '' : `: ${words}`}`}
      data-samples={value.length}
    >
      <div className="trace-plot">
        <Chart type="line" height={300} options={options as never} series={series} />
        {plot && cut !== null && props.onCut && (
          <CutHandle plot={plot} cut={cut} words={`${cut.toFixed(decimals)} ${unit}`} onCut={props.onCut} />
        )}
      </div>
      {controls}
    </div>
  )
}

const slice = <T,>(all: ArrayLike<T>, [from, to]: readonly [number, number]): ArrayLike<T> =>
  all instanceof Float64Array
    ? (all.subarray(from, to) as unknown as ArrayLike<T>)
    : Array.prototype.slice.call(all, from, to)
