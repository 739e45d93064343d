'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Board } from '@/core/catalog/board'
import { readStartup } from '@/core/startup/readStartup'
import { StartupText } from '@/ui/cable/StartupText'

/** Start-up text that another program heard: pasted, or from a file. Nothing of it leaves this page. */
export function SaidOnCable({ board }: { board: Board }) {
  const [text, setText] = useState('')
  const reading = text.trim() === '' ? null : readStartup(text, { chip: board.interpreter.chip, usb: board.usb })
  return (
    <section aria-label="what it said">
      <h2>What it said on the cable</h2>
      <Form.Label htmlFor="said-text" className="small">
        Paste it here; passwords in it are not shown.
      </Form.Label>
      <Form.Control
        id="said-text"
        as="textarea"
        rows={3}
        value=""
        placeholder={text === '' ? '' : `${text.split('\n').length} lines`}
        onChange={(e) => setText(e.target.value)}
      />
      <div className="fields mt-2">
        <Form.Control
          type="file"
          aria-label="a file with it"
          accept=".txt,.log,text/plain"
          onChange={(e) => {
            const [file] = (e.target as HTMLInputElement).files ?? []
            if (file) void file.text().then(setText)
          }}
        />
        {text !== '' && (
          <Button variant="quiet" onClick={() => setText('')}>
            Clear
          </Button>
        )}
      </div>
      {reading && <StartupText reading={reading} />}
    </section>
  )
}
