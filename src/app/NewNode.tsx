'use client'
import { Button, Form, Modal } from 'react-bootstrap'
import { inOrder } from '@/core/model/design'
import { useLive } from '@/ui/live/store'
import { useBeginNode } from './begin/useBeginNode'

/** Begins a node: its name, its place and a board; the board can be changed later and the design survives. */
export function NewNode({ show, onHide }: { show: boolean; onHide: () => void }) {
  const boards = useLive((s) => s.catalog.boards)
  const places = useLive((s) => s.shop.places)
  const { begin, said, wrong } = useBeginNode()
  const submit = async (e: React.FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    if (await begin(Object.fromEntries(new FormData(e.currentTarget)))) onHide()
  }
  return (
    <Modal show={show} onHide={onHide} aria-labelledby="new-node">
      <Modal.Body>
        <h2 id="new-node">A new node</h2>
        <Form onSubmit={(e) => void submit(e)} className="gap-3" style={{ display: 'grid' }}>
          <div>
            <Form.Label htmlFor="nn-name">name</Form.Label>
            <Form.Control id="nn-name" name="name" autoFocus autoComplete="off" isInvalid={wrong === 'name'} />
            {said('name')}
          </div>
          <div>
            <Form.Label htmlFor="nn-place">where it will be</Form.Label>
            <Form.Control id="nn-place" name="place" autoComplete="off" list="nn-places" />
            <datalist id="nn-places">
              {inOrder(places).map(({ id, value }) => (
                <option key={id} value={value.name} />
              ))}
            </datalist>
            {said('place')}
          </div>
          <div>
            <Form.Label htmlFor="nn-board">board</Form.Label>
            <Form.Select id="nn-board" name="board" defaultValue="board-32-30">
              {Object.values(boards).map((b) => (
                <option key={b.id} value={b.id}>
                  {b.name}
                </option>
              ))}
            </Form.Select>
          </div>
          <div className="d-flex gap-2">
            <Button type="submit">Begin</Button>
            <Button variant="quiet" onClick={onHide}>
              Not now
            </Button>
          </div>
        </Form>
      </Modal.Body>
    </Modal>
  )
}
