'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import type { Proposal, Tried } from '@/core/threshold/search'
import { lineChart, valueAxis } from '@/ui/theme/lineChart'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })
const INK = '#1b1a17'

interface FrontierProps {
  frontier: readonly Tried[]
  best: Tried
  hue: string
  onPick: (p: Proposal) => void
}

/** What each miss avoided costs in wrong minutes: nothing lies below this line. A point lays its threshold on. */
export function FrontierChart({ frontier, best, hue, onPick }: FrontierProps) {
  const options = useMemo(
    () => ({
      ...lineChart('frontier'),
      chart: {
        ...lineChart('frontier').chart,
        events: {
          markerClick: (_: unknown, __: unknown, at: { dataPointIndex: number }) => {
            const f = frontier[at.dataPointIndex]
            if (f) onPick(f.proposal)
          },
        },
      },
      colors: [hue],
      stroke: { width: 1.5, curve: 'stepline' as const },
      markers: {
        size: 6,
        strokeWidth: 1,
        discrete: frontier.flatMap((f, i) =>
          f.missed === best.missed && f.falseMinutes === best.falseMinutes
            ? [{ seriesIndex: 0, dataPointIndex: i, fillColor: INK, strokeColor: INK, size: 9 }]
            : [],
        ),
      },
      xaxis: {
        type: 'numeric' as const,
        min: 0,
        title: { text: 'wrong minutes' },
        labels: { formatter: (v: string) => Number(v).toFixed(1) },
        axisBorder: { color: INK },
      },
      yaxis: { ...valueAxis('missed', (v) => v.toFixed(0)), min: 0, forceNiceScale: true },
      tooltip: { x: { formatter: (v: number) => `${v.toFixed(2)} wrong minutes` } },
    }),
    [frontier, best, hue, onPick],
  )
  const series = useMemo(
    () => [{ name: 'missed', data: frontier.map((f): [number, number] => [f.falseMinutes, f.missed]) }],
    [frontier],
  )
  return (
    <div
      role="img"
      aria-label={`${frontier.length} thresholds none of which is worse in both; the proposed one misses ${best.missed} at ${best.falseMinutes.toFixed(1)} wrong minutes`}
      data-frontier={frontier.length}
      style={{ maxWidth: 560 }}
    >
      <Chart type="line" height={230} options={options as never} series={series} />
    </div>
  )
}
