'use client'
import { useRouter } from 'next/navigation'
import { useState } from 'react'
import { Button, Form, Modal } from 'react-bootstrap'
import { z } from 'zod'
import { inOrder, nameSchema } from '@/core/model/design'
import { placeNameSchema } from '@/core/shop/shop'
import { ask } from '@/ui/live/api'
import { author, useLive } from '@/ui/live/store'

const formSchema = z.object({
  name: nameSchema,
  place: z.union([z.literal(''), placeNameSchema]),
  board: z.string().min(1),
})

/** Begins a node: its name, its place and a board; the board can be changed later and the design survives. */
export function NewNode({ show, onHide }: { show: boolean; onHide: () => void }) {
  const router = useRouter()
  const boards = useLive((s) => s.catalog.boards)
  const places = useLive((s) => s.shop.places)
  const [problem, setProblem] = useState<{ field: string; text: string } | null>(null)
  const submit = async (e: React.FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    const parsed = formSchema.safeParse(Object.fromEntries(new FormData(e.currentTarget)))
    if (!parsed.success)
      return setProblem({
        field: String(parsed.error.issues[0]?.path[0]),
        text: `Expected ${parsed.error.issues[0]?.message}.`,
      })
    const answer = await ask('/api/nodes', z.object({ slug: z.string() }), { ...parsed.data, author: author() })
    if (answer.kind === 'ok') {
      onHide()
      router.push(`/node/${answer.value.slug}`)
    } else
      setProblem({
        field: 'name',
        text: answer.kind === 'away' ? 'The server cannot be reached; nothing was begun.' : answer.error,
      })
  }
  const said = (field: string) =>
    problem?.field === field ? (
      <div className="small" role="alert">
        {problem.text}
      </div>
    ) : null
  return (
    <Modal show={show} onHide={onHide} aria-labelledby="new-node">
      <Modal.Body>
        <h2 id="new-node">A new node</h2>
        <Form onSubmit={(e) => void submit(e)} className="gap-3" style={{ display: 'grid' }}>
          <div>
            <Form.Label htmlFor="nn-name">name</Form.Label>
            <Form.Control id="nn-name" name="name" autoFocus autoComplete="off" isInvalid={problem?.field === 'name'} />
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
