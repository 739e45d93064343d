'use client'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { PartKind } from '@/core/catalog/part'
import { searchParts } from '@/core/catalog/searchParts'
import { applyEdit } from '@/core/edits/apply'
import type { EditBody } from '@/core/edits/edit'
import { editAll, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { addPartEdits } from '../AddPart'
import { money } from './BillOfParts'

const MOST = 12

/** The shelf by what a part senses or does; several of one kind are added together. */
export function ShelfSearch({ view }: { view: NodeView }) {
  const { catalog } = view
  const [wish, setWish] = useState('')
  const [count, setCount] = useState(1)
  const found = useMemo(() => searchParts(catalog, wish), [catalog, wish])
  const add = (kind: PartKind) => {
    const edits: EditBody[] = []
    let at = view
    for (let i = 0; i < count; i++) {
      for (const body of addPartEdits(at, kind, wish)) {
        const applied = applyEdit(at.node.design, body, catalog)
        if (!applied.ok) break
        edits.push(body)
        at = { ...at, node: { ...at.node, design: applied.design } }
      }
    }
    if (editAll(view.node.id, edits)) say(`${count > 1 ? `${count} × ` : ''}${kind.name} added.`)
  }
  return (
    <section aria-label="on the shelf" className="mt-4">
      <div className="fields mb-2">
        <h2 className="mt-0 me-3 mb-1 ms-0">On the shelf</h2>
        <div>
          <Form.Label htmlFor="shelf-wish">what it should know or do</Form.Label>
          <Form.Control
            id="shelf-wish"
            value={wish}
            onChange={(e) => setWish(e.target.value)}
            placeholder="humidity, door, pump …"
            autoComplete="off"
            style={{ width: 260 }}
          />
        </div>
        <div>
          <Form.Label htmlFor="shelf-count">how many</Form.Label>
          <Form.Control
            id="shelf-count"
            type="number"
            min={1}
            max={24}
            value={count}
            onChange={(e) => setCount(Math.min(24, Math.max(1, Number(e.target.value) || 1)))}
            style={{ width: 84 }}
          />
        </div>
        <span className="soft small pb-2" role="status">
          {found.length} of {Object.keys(catalog.parts).length} kinds
        </span>
      </div>
      <table className="table">
        <tbody>
          {found.slice(0, wish.trim() === '' ? 6 : MOST).map((kind) => (
            <tr key={kind.id} data-shelf={kind.id}>
              <td>
                <b>{kind.name}</b>
                <br />
                <span className="soft small">{kind.summary}</span>
              </td>
              <td className="small mono">
                {kind.terminals
                  .filter((t) => t.role !== 'contact')
                  .slice(0, 8)
                  .map((t) => t.label)
                  .join(' · ')}
              </td>
              <td className="small text-nowrap">
                {kind.cost.each > 0 ? money(kind.cost.each) : 'there already'}
                {kind.cost.pack > 1 && <span className="soft">, pack of {kind.cost.pack}</span>}
              </td>
              <td className="text-end">
                <Button variant="quiet" aria-label={`add ${kind.name}`} onClick={() => add(kind)}>
                  Add{count > 1 ? ` ${count}` : ''}
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.length === 0 && (
        <p>Nothing on the shelf answers to “{wish}”. Try a plainer word, or bring a part in on the Shelf.</p>
      )}
      {found.length > (wish.trim() === '' ? 6 : MOST) && (
        <p className="soft small">
          and {found.length - (wish.trim() === '' ? 6 : MOST)} more: say what it should know or do
        </p>
      )}
    </section>
  )
}
