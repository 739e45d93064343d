'use client'
import { Table } from 'react-bootstrap'
import { isOf } from '@/core/model/sender'
import type { InTheAir } from '@/core/radio/candidates'
import { Bits } from '@/ui/air/Bits'
import { agoWords } from '@/ui/live/nowWords'
import { type ClientNode, useLive } from '@/ui/live/store'

/** Everything heard in the last ten minutes, the shop’s own named; the rest is a neighbour’s or not learnt yet. */
export function Heard({ heard, now }: { heard: readonly InTheAir[]; now: number }) {
  const { shop, nodes } = useLive()
  return (
    <section>
      <h2 className="h5 mt-4">In the air, last ten minutes</h2>
      {heard.length === 0 && (
        <p>Nothing yet. Trigger something: it appears here as soon as it has been said twice alike.</p>
      )}
      {heard.length > 0 && (
        <Table className="stacked">
          <thead>
            <tr>
              <th>who</th>
              <th>what it said last</th>
              <th>heard</th>
            </tr>
          </thead>
          <tbody>
            {[...heard]
              .sort((a, b) => (b.arrivals.at(-1)?.atMs ?? 0) - (a.arrivals.at(-1)?.atMs ?? 0))
              .map((h) => {
                const last = h.arrivals.at(-1)
                return (
                  <tr key={h.id}>
                    <td>
                      {saidByOurs(h, nodes) ?? nameOf(h, shop)}
                      <div className="small soft">{h.family.name}</div>
                    </td>
                    <td>
                      <Bits code={last?.code ?? ''} />
                    </td>
                    <td>
                      {h.arrivals.length === 1 ? 'once' : `${h.arrivals.length} times`}, last{' '}
                      {agoWords(Math.max(0, now - (last?.atMs ?? now)))} ago
                      <div className="small soft">
                        {Object.entries(h.by)
                          .map(([by, n]) => `${by} ${n}`)
                          .join(', ')}
                      </div>
                    </td>
                  </tr>
                )
              })}
          </tbody>
        </Table>
      )}
    </section>
  )
}

/** What a node of the shop says itself. */
function saidByOurs(h: InTheAir, nodes: Record<string, ClientNode>): string | null {
  for (const { design } of Object.values(nodes))
    for (const { name, conditioning } of Object.values(design.signals)) {
      const { says } = conditioning
      if (says && h.codes.some((c) => c === says.on || c === says.off)) return `${name}, said by ${design.name}`
    }
  return null
}

/** An address in as few signs as tell it apart: hexadecimal where it has two states. */
const shortAddress = (bits: string): string =>
  /^[01]+$/.test(bits)
    ? BigInt(`0b${bits}`)
        .toString(16)
        .padStart(Math.ceil(bits.length / 4), '0')
    : bits

/** A sender of the shop by its name; anything else by the beginning of its address. */
export function nameOf(
  h: InTheAir,
  shop: {
    senders: Record<string, { name: string; address: string; family: string }>
    families: Record<string, { name: string }>
  },
): string {
  const known = Object.values(shop.senders).find(
    (s) => shop.families[s.family]?.name === h.family.name && h.codes.some((c) => isOf(c, s.address)),
  )
  return known?.name ?? `unknown ${shortAddress(h.address.replaceAll('.', ''))}`
}
