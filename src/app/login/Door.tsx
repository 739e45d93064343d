'use client'
import { useRouter } from 'next/navigation'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { ask } from '@/ui/live/api'

/** Asked for when the shop answers beyond this machine. */
export function Door() {
  const router = useRouter()
  const [problem, setProblem] = useState('')
  const [busy, setBusy] = useState(false)
  const submit = async (e: React.FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    setBusy(true)
    const answer = await ask('/api/session', z.object({}), {
      password: String(new FormData(e.currentTarget).get('password') ?? ''),
    })
    setBusy(false)
    if (answer.kind === 'ok') router.replace('/')
    else setProblem(answer.error)
  }
  return (
    <main className="empty my-0 mx-auto" style={{ padding: '22vh 28px' }}>
      <h1 className="mb-3">Vivid Node</h1>
      <Form onSubmit={(e) => void submit(e)}>
        <Form.Label htmlFor="shop-password">password of the shop</Form.Label>
        <div className="d-flex gap-2" style={{ maxWidth: 420 }}>
          <Form.Control
            id="shop-password"
            name="password"
            type="password"
            autoFocus
            autoComplete="current-password"
            isInvalid={problem !== ''}
          />
          <Button type="submit" disabled={busy}>
            Enter
          </Button>
        </div>
        {problem && (
          <div className="small mt-2" role="alert">
            {problem}
          </div>
        )}
      </Form>
    </main>
  )
}
