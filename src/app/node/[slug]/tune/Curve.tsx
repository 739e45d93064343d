'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import { hueOf } from '@/core/palette/palette'
import type { Signal } from '@/core/model/design'
import { agoWords } from '@/ui/live/nowWords'
import type { Point } from './useRecent'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

const timeOfDay = (ms: number) => new Date(ms).toLocaleTimeString('en-GB')

/** The published value over the last `windowS`. */
export function Curve({ recent, signal, windowS }: { recent: Point[]; signal: Signal; windowS: number }) {
  const { tag, name, publish } = signal
  const hue = hueOf(signal)
  const options = useMemo(
    () => ({
      chart: {
        id: `curve-${tag}`,
        animations: { enabled: false },
        toolbar: { show: false },
        zoom: { enabled: false },
        fontFamily: 'Atkinson Hyperlegible Next Variable',
        foreColor: '#625d53',
        background: 'transparent',
      },
      colors: [hue],
      stroke: { width: 2.5, curve: 'straight' as const },
      markers: { size: 0 },
      dataLabels: { enabled: false },
      tooltip: { x: { formatter: timeOfDay } },
      grid: { borderColor: '#e6e1d5' },
      xaxis: {
        type: 'numeric' as const,
        tickAmount: 4,
        labels: { formatter: (v: string) => timeOfDay(Number(v)), style: { fontSize: '14px' } },
        axisBorder: { color: '#1b1a17' },
        tooltip: { enabled: false },
      },
      yaxis: {
        labels: { formatter: (v: number) => v.toFixed(publish.decimals), style: { fontSize: '14px' } },
        title: { text: publish.unit, style: { fontSize: '14px', fontWeight: 450 } },
      },
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
