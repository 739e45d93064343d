'use client'
import { useState } from 'react'
import { Form } from 'react-bootstrap'
import type { z } from 'zod'

interface EditFieldProps<T> {
  id: string
  label: string
  value: T
  show?: (value: T) => string
  /** From what was typed to the value, or a sentence why not. */
  schema: z.ZodType<T, string>
  unit?: string
  width?: number
  hideLabel?: boolean
  onSave: (value: T) => void
}

/**
 * A field that saves when it is left or Enter is pressed. What cannot be saved stays, with the reason under it; Escape
 * puts the old value back.
 */
export function EditField<T extends string | number>({
  id,
  label,
  value,
  show = String,
  schema,
  unit,
  width,
  hideLabel = false,
  onSave,
}: EditFieldProps<T>) {
  const [text, setText] = useState<string | null>(null)
  const [problem, setProblem] = useState('')
  const save = () => {
    if (text === null) return
    const parsed = schema.safeParse(text)
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? 'This is not accepted.')
    setText(null)
    setProblem('')
    if (parsed.data !== value) onSave(parsed.data)
  }
  const onKeyDown = (e: React.KeyboardEvent) => {
    if (e.key === 'Enter') save()
    else if (e.key === 'Escape') {
      e.stopPropagation()
      setText(null)
      setProblem('')
    }
  }
  return (
    <div style={{ width }}>
      <Form.Label htmlFor={id} visuallyHidden={hideLabel}>
        {label}
      </Form.Label>
      <div className="d-flex align-items-baseline gap-2">
        <Form.Control
          id={id}
          value={text ?? show(value)}
          isInvalid={problem !== ''}
          aria-describedby={problem ? `${id}-problem` : undefined}
          autoComplete="off"
          spellCheck={false}
          onChange={(e) => setText(e.target.value)}
          onBlur={save}
          onKeyDown={onKeyDown}
        />
        {unit && <span className="soft">{unit}</span>}
      </div>
      {problem && (
        <div id={`${id}-problem`} className="small" role="alert">
          {problem}
        </div>
      )}
    </div>
  )
}
