'use client'
import { Modal, Table } from 'react-bootstrap'

const KEYS: [string, string][] = [
  ['0 1 2 3 7 8', 'loom, parts, pins, wires, tune, publish'],
  ['S L', 'in the shop: shop, ledger'],
  ['← ↑ ↓ →', 'move over the loom'],
  ['Enter', 'open the bench of this column at this thread'],
  ['Escape', 'back to the loom, from there to the shop'],
  ['N', 'new: what should it know or do?'],
  ['Ctrl-Z, Ctrl-Shift-Z', 'take back, do again'],
  ['/', 'find anything'],
  ['?', 'this page'],
]

export function KeysSheet({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} aria-labelledby="keys-title">
      <Modal.Body>
        <h2 id="keys-title">Keys</h2>
        <Table className="mb-0">
          <tbody>
            {KEYS.map(([key, does]) => (
              <tr key={key}>
                <td style={{ whiteSpace: 'nowrap' }}>
                  <kbd>{key}</kbd>
                </td>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Modal.Body>
    </Modal>
  )
}
