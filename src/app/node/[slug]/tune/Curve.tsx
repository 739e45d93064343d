'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import { hueOf } from '@/core/palette/palette'
import type { Signal } from '@/core/model/design'
import { agoWords } from '@/ui/live/nowWords'
import { lineChart, timeAxis, valueAxis } from '@/ui/theme/lineChart'
import type { Point } from '@/ui/live/useRecent'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

const timeOfDay = (ms: number) => new Date(ms).toLocaleTimeString('en-GB')

/** The published value over the last `windowS`. */
export function Curve({ recent, signal, windowS }: { recent: Point[]; signal: Signal; windowS: number }) {
  const { tag, name, publish } = signal
  const hue = hueOf(signal)
  const options = useMemo(
    () => ({
      ...lineChart(`curve-${tag}`),
      colors: [hue],
      stroke: { width: 2.5, curve: 'straight' as const },
      tooltip: { x: { formatter: timeOfDay } },
      xaxis: timeAxis(4, timeOfDay),
      yaxis: valueAxis(publish.unit, (v) => v.toFixed(publish.decimals)),
    }),
    [tag, hue, publish.decimals, publish.unit],
  )
  const series = useMemo(
    () => [{ name: `${tag} ${name}`, data: recent.map((p): [number, number] => [p.at, p.value]) }],
    [tag, name, recent],
  )
  return (
    <div
      role="img"
      aria-label={`${name} over the last ${agoWords(windowS * 1000)}, now ${recent.at(-1)?.value ?? 'unknown'} ${publish.unit}`}
    >
      <Chart type="line" height={320} options={options} series={series} />
    </div>
  )
}
