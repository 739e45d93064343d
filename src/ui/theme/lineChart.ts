/** What every line over time has in common: no tool bar, no motion, the product's letters and hairlines. */
export const lineChart = (id: string) => ({
  chart: {
    id,
    animations: { enabled: false },
    toolbar: { show: false },
    zoom: { enabled: false },
    fontFamily: 'Atkinson Hyperlegible Next Variable',
    foreColor: '#625d53',
    background: 'transparent',
  },
  markers: { size: 0 },
  dataLabels: { enabled: false },
  grid: { borderColor: '#e6e1d5' },
})

const style = { fontSize: '14px' }

/** Axis of time, or of seconds since a beginning. */
export const timeAxis = (ticks: number, words: (v: number) => string) => ({
  type: 'numeric' as const,
  tickAmount: ticks,
  labels: { formatter: (v: string) => words(Number(v)), style },
  axisBorder: { color: '#1b1a17' },
  tooltip: { enabled: false },
})

export const valueAxis = (unit: string, words: (v: number) => string) => ({
  labels: { formatter: words, style },
  title: { text: unit, style: { ...style, fontWeight: 450 } },
})
