'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import type { SupplyPoint } from '@/core/energy/inService'
import { lineChart, timeAxis, valueAxis } from '@/ui/theme/lineChart'

const Chart = dynamic(() => import('react-apexcharts'), { ssr: false })

const day = (ms: number) => new Date(ms).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })

/** What the node told of its cell since it hangs there. */
export function SupplyCurve({ points }: { points: readonly SupplyPoint[] }) {
  const series = useMemo(
    () => [{ name: 'cell', data: points.map((p): [number, number] => [p.atS * 1000, p.volts]) }],
    [points],
  )
  const options = useMemo(
    () => ({
      ...lineChart('supply'),
      colors: ['#1b1a17'],
      stroke: { width: 1.5 },
      tooltip: { x: { formatter: day } },
      xaxis: timeAxis(6, day),
      yaxis: valueAxis('V', (v) => v.toFixed(2)),
    }),
    [],
  )
  const [first, last] = [points[0], points.at(-1)]
  return (
    <div role="img" aria-label={`from ${first?.volts.toFixed(2)} V to ${last?.volts.toFixed(2)} V`}>
      <Chart type="line" height={220} options={options} series={series} />
    </div>
  )
}
