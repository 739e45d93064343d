import Papa from 'papaparse'
import type { SupplyPoint } from './inService'

/** What a file of reported voltages holds, and the lines that could not be read, by number. */
export interface ReadSupply {
  points: SupplyPoint[]
  unread: number[]
}

const TIME = ['time', 'at', 'date', 'timestamp']
const VOLTS = ['volts', 'v', 'voltage', 'supply', 'supplyv']
const TEMPERATURE = ['temperature', 'temp', 'tempc', '°c', 'c']

/** A table with a head line: time (ISO or seconds), volts, and a temperature if there is one, °C. */
export function readSupply(text: string): ReadSupply {
  const { data, meta } = Papa.parse<Record<string, string>>(text.trim(), {
    header: true,
    skipEmptyLines: true,
    transformHeader: (h) => h.trim().toLowerCase(),
  })
  const column = (names: readonly string[]) => meta.fields?.find((f) => names.includes(f))
  const [time, volts, temperature] = [column(TIME), column(VOLTS), column(TEMPERATURE)]
  if (time === undefined || volts === undefined) return { points: [], unread: data.map((_, i) => i + 2) }
  const unread: number[] = []
  const points = data.flatMap((row, i): SupplyPoint[] => {
    const atS = secondsOf(row[time] ?? '')
    const v = numberOf(row[volts])
    if (atS === null || v === null || v <= 0) {
      unread.push(i + 2)
      return []
    }
    return [{ atS, volts: v, tempC: temperature === undefined ? undefined : (numberOf(row[temperature]) ?? undefined) }]
  })
  return { points, unread }
}

function numberOf(text: string | undefined): number | null {
  const plain = (text ?? '').trim().replace(',', '.')
  return plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : null
}

/** Seconds UTC of an ISO time, or of a number of seconds. */
function secondsOf(text: string): number | null {
  const plain = numberOf(text)
  if (plain !== null) return plain
  const ms = Date.parse(text.trim())
  return Number.isNaN(ms) ? null : ms / 1000
}
