const PREFIX: Readonly<Record<string, number>> = { '': 1, k: 1e3, M: 1e6, m: 1e-3, µ: 1e-6, u: 1e-6 }

/**
 * A number as read off a meter, in its plain unit: `4.9`, `4,9 V`, `68 mA`, `10 k`, `−61 dBm`. Null for anything else.
 */
export function meterNumber(text: string): number | null {
  const found = /^\s*([-−]?(?:\d+[.,]?\d*|[.,]\d+))\s*([kMmµu]?)\s*(?:V|A|Ω|ohm|dBm)?\s*$/.exec(text)
  const number = Number((found?.[1] ?? '').replace('−', '-').replace(',', '.'))
  const by = PREFIX[found?.[2] ?? '']
  return found && Number.isFinite(number) && by !== undefined ? number * by : null
}
