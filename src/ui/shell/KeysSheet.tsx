'use client'
import { Modal, Table } from 'react-bootstrap'
import { PLACES } from './places'

const placesOf = (of: 'shop' | 'node'): [string, string][] =>
  PLACES.filter((p) => p.of === of).map((p) => [p.key, 'demo' in p ? `${p.name}, in the demo` : p.name])

/** Keys by where they count. Those of places come from their list. */
const KEYS: [string, [string, string][]][] = [
  ['in the shop', placesOf('shop')],
  ['at a node', [...placesOf('node'), ['W', 'why it, or the chosen thread, is silent: what is known of every link']]],
  [
    'everywhere',
    [
      ['/', 'find anything'],
      ['?', 'this page'],
      ['N', 'in the shop a new node, in the loom a new part, at Parts to the shelf'],
      ['Ctrl-Z', 'take back, at a node and in the settings'],
      ['Ctrl-Shift-Z', 'do again'],
      ['Escape', 'from a bench to the loom, from there to the shop'],
    ],
  ],
  [
    'for a new node',
    [
      ['Enter', 'after the wish: to the first proposal'],
      ['1 2 3', 'take this proposal'],
    ],
  ],
  [
    'in the loom',
    [
      ['← ↑ ↓ →', 'move over it'],
      ['Enter', 'open the bench of this column at this thread'],
    ],
  ],
  [
    'in the entity sheet',
    [
      ['← ↑ ↓ →', 'move over it'],
      ['Enter', 'change this cell, and with it that of every marked row'],
      ['Space, A', 'mark this row, all rows'],
      ['T, C, I', 'copy the topic, that of the command, the identity'],
    ],
  ],
  [
    'wire after wire',
    [
      ['Enter', 'made: mark it and go on'],
      ['Space →', 'go on'],
      ['←', 'back'],
    ],
  ],
]

export function KeysSheet({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} aria-labelledby="keys-title" scrollable>
      <Modal.Body tabIndex={0}>
        <h2 id="keys-title">Keys</h2>
        {KEYS.map(([where, keys]) => (
          <section key={where} aria-label={where}>
            <h3>{where}</h3>
            <Table className="mb-2" size="sm">
              <tbody>
                {keys.map(([key, does]) => (
                  <tr key={key}>
                    <td className="key">
                      <kbd>{key}</kbd>
                    </td>
                    <td>{does}</td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </section>
        ))}
      </Modal.Body>
    </Modal>
  )
}
