'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import { hueOf } from '@/core/palette/palette'
import type { Signal } from '@/core/model/design'
import { reduced, type Sample } from '@/core/trace/closely'
import { lineChart, timeAxis, valueAxis } from '@/ui/theme/lineChart'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

/** So many points are drawn; spikes are among them. */
const MOST_POINTS = 800

function labelOf(v: number, twoWay: boolean, decimals: number): string {
  if (!twoWay) return v.toFixed(decimals)
  return v > 0.5 ? 'on' : 'off'
}

/** What was heard closely: raw values over the seconds since it began; unknown ones leave a gap. */
export function CloseCurve({
  samples,
  factor,
  unit,
  signal,
  twoWay,
}: {
  samples: readonly Sample[]
  factor: number
  unit: string
  signal: Signal
  /** On and off, and nothing between. */
  twoWay: boolean
}) {
  const hue = hueOf(signal)
  const { decimals } = signal.publish
  const options = useMemo(
    () => ({
      ...lineChart(`close-${signal.tag}`),
      colors: [hue],
      stroke: { width: 1.5, curve: twoWay ? ('stepline' as const) : ('straight' as const) },
      tooltip: { x: { formatter: (s: number) => `${s.toFixed(2)} s` } },
      xaxis: timeAxis(6, (s) => `${s.toFixed(0)} s`),
      yaxis: {
        ...(twoWay ? { min: 0, max: 1, tickAmount: 1 } : {}),
        ...valueAxis(unit, (v) => labelOf(v, twoWay, unit ? decimals : 2)),
      },
    }),
    [signal.tag, hue, decimals, unit, twoWay],
  )
  const data = useMemo(
    () =>
      reduced(samples, MOST_POINTS).map((p): [number, number | null] => [
        p.s,
        p.value === null ? null : p.value * factor,
      ]),
    [samples, factor],
  )
  const series = useMemo(() => [{ name: `${signal.tag} raw`, data }], [signal.tag, data])
  const last = samples.at(-1)
  return (
    <div
      role="img"
      aria-label={`${signal.name}, raw, ${samples.length} samples over ${last?.s.toFixed(0) ?? 0} s`}
      data-samples={samples.length}
    >
      <Chart type="line" height={260} options={options} series={series} />
    </div>
  )
}
