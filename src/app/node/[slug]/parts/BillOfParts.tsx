'use client'
import { billOf } from '@/core/bill/bill'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { edit } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

/** `2.40`. The shop's own currency; the product knows none. */
export function money(value: number): string {
  return value.toFixed(2)
}

/** The running list: what is used, in which packs it is sold, and what a bought device would cost instead. */
export function BillOfParts({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    catalog,
  } = view
  const bill = billOf(design, catalog)
  return (
    <section aria-label="what it costs" className="mt-4">
      <h2>What it costs</h2>
      <table className="table" data-bill>
        <thead>
          <tr>
            <th scope="col">thing</th>
            <th scope="col">needed</th>
            <th scope="col">one costs</th>
            <th scope="col">sold in</th>
            <th scope="col" className="text-end">
              to buy
            </th>
          </tr>
        </thead>
        <tbody>
          {bill.rows.map((r) => (
            <tr key={r.id}>
              <td>{r.name}</td>
              <td>{r.count}</td>
              <td>
                <EditField
                  id={`cost-${r.id}`}
                  label={`cost of one ${r.name}`}
                  hideLabel
                  width={96}
                  value={r.each}
                  schema={numberIn(0, 100_000, '')}
                  onSave={(cost) => edit(id, { kind: 'set-cost', item: r.id, cost })}
                />
              </td>
              <td>{r.pack === 1 ? 'ones' : `${r.packs} × ${r.pack}`}</td>
              <td className="text-end">{money(r.cost)}</td>
            </tr>
          ))}
          <tr>
            <td colSpan={4}>
              <b>total</b> <span className="soft">of which {money(bill.used)} is used here</span>
            </td>
            <td className="text-end">
              <b>{money(bill.total)}</b>
            </td>
          </tr>
        </tbody>
      </table>
      <p className="small">
        {bill.readyMade > 0
          ? `Ready-made devices that do the same: about ${money(bill.readyMade)}, and their hub besides.`
          : 'Nothing of this is sold ready made.'}
        {bill.readyMade > 0 &&
          bill.notReadyMade.length > 0 &&
          ` Not sold ready made: ${bill.notReadyMade.join(', ').toLowerCase()}.`}{' '}
        <span className="soft">Prices of the catalogue are guides; write your own in.</span>
      </p>
    </section>
  )
}
