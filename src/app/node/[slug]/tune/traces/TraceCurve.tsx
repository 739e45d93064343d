'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import type { Span } from '@/core/threshold/price'
import { reducedIndices } from '@/core/trace/reduced'
import type { Mark } from '@/core/trace/trace'
import { lineChart, timeAxis, valueAxis } from '@/ui/theme/lineChart'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })
/** So many points are drawn; spikes and gaps are among them. */
const MOST_POINTS = 1500

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
}

const INK = '#1b1a17'

/** A trace with everything that hangs on it: marks as spans, the threshold as a line, what would have gone wrong. */
export function TraceCurve(props: TraceCurveProps) {
  const { s, value, factor, unit, hue, label, marks, cut = null, band = 0, missed = [], wrong = [], decimals } = props
  const data = useMemo(
    () =>
      reducedIndices(value, MOST_POINTS).map((i): [number, number | null] => {
        const v = value[i] ?? NaN
        return [Number((s[i] ?? 0).toFixed(3)), Number.isNaN(v) ? null : v * factor]
      }),
    [s, value, factor],
  )
  const options = useMemo(() => {
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
      colors: [hue],
      stroke: { width: 1.5, curve: 'straight' as const },
      tooltip: { x: { formatter: (at: number) => `${at.toFixed(2)} s` } },
      xaxis: timeAxis(6, (at) => `${at.toFixed(0)} s`),
      yaxis: valueAxis(unit, (v) => v.toFixed(decimals)),
      annotations: {
        xaxis: [
          ...marks.map((m) => span(m, hue, 0.14, m.word)),
          ...missed.map((m) => span(m, INK, 0.45, 'missed')),
          ...wrong.filter((w) => w.to - w.from > 0).map((w) => span(w, INK, 0.14)),
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
  }, [hue, label, unit, decimals, marks, cut, band, missed, wrong])
  const series = useMemo(() => [{ name: label, data }], [label, data])
  const words = [...new Set(marks.map((m) => m.word))].join(', ')
  return (
    <div
      role="img"
      aria-label={`${label}: ${value.length} samples over ${(s[s.length - 1] ?? 0).toFixed(0)} s, ${marks.length} ${marks.length === 1 ? 'mark' : 'marks'}${words === '' ? '' : `: ${words}`}`}
      data-samples={value.length}
    >
      <Chart type="line" height={300} options={options as never} series={series} />
    </div>
  )
}
