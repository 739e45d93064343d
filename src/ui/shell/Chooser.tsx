'use client'
import { useId, useMemo, useState } from 'react'
import { Form, Modal } from 'react-bootstrap'

export interface Choice {
  id: string
  name: string
  detail: string
  words: string
}

interface ChooserProps {
  show: boolean
  title: string
  hint: string
  choices: Choice[]
  /** Finds by better means than words that occur. */ search?: (text: string) => Choice[]
  onChoose: (choice: Choice) => void
  onHide: () => void
}

/** A list narrowed by typing: every word typed must occur. Arrows move, Enter chooses. */
export function Chooser({ show, title, hint, choices, search, onChoose, onHide }: ChooserProps) {
  const id = useId()
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const found = useMemo(() => {
    if (search && text.trim() !== '') return search(text).slice(0, 60)
    const words = text.toLowerCase().split(/\s+/).filter(Boolean)
    return choices
      .filter((c) => words.every((w) => `${c.name} ${c.detail} ${c.words}`.toLowerCase().includes(w)))
      .slice(0, 60)
  }, [choices, search, text])
  const chosen = found[Math.min(at, found.length - 1)]
  const choose = (c: Choice | undefined) => {
    if (!c) return
    setText('')
    setAt(0)
    onChoose(c)
  }
  const onKeyDown = (e: React.KeyboardEvent) => {
    if (e.key === 'ArrowDown') setAt((n) => Math.min(n + 1, found.length - 1))
    else if (e.key === 'ArrowUp') setAt((n) => Math.max(n - 1, 0))
    else if (e.key === 'Enter') choose(chosen)
    else return
    e.preventDefault()
  }
  return (
    <Modal show={show} onHide={onHide} aria-labelledby={`${id}t`} className="finder">
      <Modal.Body>
        <h2 id={`${id}t`}>{title}</h2>
        <Form.Control
          autoFocus
          value={text}
          placeholder={hint}
          aria-label={title}
          role="combobox"
          aria-expanded="true"
          aria-controls={`${id}l`}
          aria-activedescendant={chosen ? `${id}-${chosen.id}` : undefined}
          onChange={(e) => {
            setText(e.target.value)
            setAt(0)
          }}
          onKeyDown={onKeyDown}
          autoComplete="off"
        />
        <ul id={`${id}l`} role="listbox" aria-label={title} className="list-group" tabIndex={-1}>
          {found.map((c) => (
            <li key={c.id} id={`${id}-${c.id}`} role="option" aria-selected={c === chosen} onClick={() => choose(c)}>
              <span>{c.name}</span>
              <span className="soft small">{c.detail}</span>
            </li>
          ))}
        </ul>
        {found.length === 0 && <p className="soft m-2">Nothing of that name.</p>}
      </Modal.Body>
    </Modal>
  )
}
