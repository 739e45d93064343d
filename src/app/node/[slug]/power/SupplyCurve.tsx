'use client'
import dynamic from 'next/dynamic'
import { useMemo } from 'react'
import type { SupplyPoint } from '@/core/energy/inService'

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
      chart: {
        id: 'supply',
        animations: { enabled: false },
        toolbar: { show: false },
        zoom: { enabled: false },
        fontFamily: 'Atkinson Hyperlegible Next Variable',
        foreColor: '#625d53',
        background: 'transparent',
      },
      colors: ['#1b1a17'],
      stroke: { width: 1.5 },
      markers: { size: 0 },
      dataLabels: { enabled: false },
      tooltip: { x: { formatter: day } },
      grid: { borderColor: '#e6e1d5' },
      xaxis: {
        type: 'numeric' as const,
        tickAmount: 6,
        labels: { formatter: (v: string) => day(Number(v)), style: { fontSize: '14px' } },
        axisBorder: { color: '#1b1a17' },
        tooltip: { enabled: false },
      },
      yaxis: {
        labels: { formatter: (v: number) => v.toFixed(2), style: { fontSize: '14px' } },
        title: { text: 'V', style: { fontSize: '14px', fontWeight: 450 } },
      },
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
