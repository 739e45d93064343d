'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import type { Fit } from '@/core/calibration/fit'
import type { Pair } from '@/core/calibration/pair'
import { lineChart, timeAxis, valueAxis } from '@/ui/theme/lineChart'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })
const STEPS = 60

interface FitChartProps {
  pairs: readonly Pair[]
  fit: Fit
  scale: number
  unit: string
  decimals: number
  hue: string
}

/**
 * What the calibration adds to a reading, over what is read: the curve, its 95 % band and the pairs. The correction
 * rather than the corrected reading, because a line from corner to corner shows nothing.
 */
export function FitChart({ pairs, fit, scale, unit, decimals, hue }: FitChartProps) {
  const options = useMemo(
    () => ({
      ...lineChart('fit'),
      chart: { ...lineChart('fit').chart, type: 'rangeArea' as const },
      colors: [hue, hue, '#1b1a17'],
      stroke: { width: [0, 2.5, 0], curve: 'straight' as const },
      fill: { opacity: [0.16, 1, 1] },
      markers: { size: [0, 0, 6], strokeWidth: 0 },
      legend: { show: false },
      tooltip: { shared: false, x: { formatter: (v: number) => `reads ${v.toFixed(decimals)} ${unit}` } },
      xaxis: timeAxis(5, (v) => v.toFixed(decimals)),
      yaxis: valueAxis(`correction, ${unit}`, (v) => v.toFixed(decimals)),
    }),
    [hue, unit, decimals],
  )
  const series = useMemo(() => {
    const { min, max } = fit.span
    const wide = max - min || Math.abs(max) * 0.1 || 1
    const over = Array.from({ length: STEPS + 1 }, (_, i) => min - wide * 0.1 + (wide * 1.2 * i) / STEPS)
    const known = over.flatMap((x) => {
      const y = fit.corrected(x)
      return Number.isFinite(y) ? [{ x: x * scale, add: (y - x) * scale, half: (fit.expanded95(x) ?? 0) * scale }] : []
    })
    return [
      {
        name: '95 % band',
        type: 'rangeArea',
        data: known.map(({ x, add, half }) => ({ x, y: [add - half, add + half] })),
      },
      { name: 'correction', type: 'line', data: known.map(({ x, add }) => ({ x, y: add })) },
      {
        name: 'pair',
        type: 'scatter',
        data: pairs.map((p) => ({ x: p.raw * scale, y: (p.reference - p.raw) * scale })),
      },
    ]
  }, [pairs, fit, scale])
  const half = fit.expanded95((fit.span.min + fit.span.max) / 2)
  return (
    <div
      role="img"
      aria-label={`correction over the reading from ${pairs.length} ${pairs.length === 1 ? 'pair' : 'pairs'}${half === null ? ', no band: nothing is left to estimate it from' : `, band ± ${(half * scale).toFixed(decimals)} ${unit} in the middle`}`}
      data-band={half === null ? '' : half * scale}
    >
      <Chart type="rangeArea" height={260} options={options} series={series as never} />
    </div>
  )
}
