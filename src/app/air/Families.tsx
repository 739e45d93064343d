'use client'
import { useRef } from 'react'
import { Button, Form, Table } from 'react-bootstrap'
import { familyFileSchema, familyText } from '@/core/radio/subghz/family'
import { saveFile } from '@/ui/files/saveFile'
import { editShop, say, useLive } from '@/ui/live/store'

/** How senders of one make say their codes: described once, used for all of them; files in and out. */
export function Families() {
  const { families, senders } = useLive((s) => s.shop)
  const input = useRef<HTMLInputElement>(null)
  const take = async (file: File) => {
    const parsed = familyFileSchema.safeParse(readJson(await file.text()))
    if (!parsed.success) {
      const [issue] = parsed.error.issues
      return say(
        `${file.name} is no family: ${issue?.path.join(' › ') ?? ''} ${issue?.message ?? ''}.`,
        'refused',
        'a file of this format',
      )
    }
    const { family } = parsed.data
    const known = Object.entries(families).find(([, f]) => f.name === family.name)
    let n = 1
    while (`f${n}x` in families) n++
    if (editShop({ kind: 'set-family', familyId: known?.[0] ?? `f${n}x`, family }))
      say(`Family “${family.name}” is here.`)
  }
  const all = Object.entries(families)
  return (
    <section>
      <h2 className="h5 mt-4">Families</h2>
      <p className="small soft">
        How one make of sender says its bits. What is learnt brings its own; a file brings one that was described
        elsewhere.
      </p>
      {all.length > 0 && (
        <Table className="stacked">
          <thead>
            <tr>
              <th>family</th>
              <th>base length</th>
              <th>0 · 1{all.some(([, f]) => f.open) ? ' · third' : ''}</th>
              <th>bits</th>
              <th>senders</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {all.map(([id, f]) => {
              const users = Object.values(senders).filter((s) => s.family === id).length
              return (
                <tr key={id}>
                  <td>
                    <b>{f.name}</b>
                  </td>
                  <td>{f.baseUs} µs</td>
                  <td className="mono">
                    {[f.zero, f.one, ...(f.open ? [f.open] : [])].map((s) => s.join('-')).join(' · ')}
                  </td>
                  <td>
                    {f.bits}, said {f.repeats} times
                    <Form.Check
                      id={`rolling-${id}`}
                      label="codes change with every press"
                      checked={f.rolling}
                      onChange={(e) =>
                        editShop({ kind: 'set-family', familyId: id, family: { ...f, rolling: e.target.checked } })
                      }
                    />
                  </td>
                  <td>{users}</td>
                  <td>
                    <Button
                      variant="quiet"
                      onClick={() =>
                        saveFile(`${f.name.replace(/[^a-z0-9]+/gi, '-')}.json`, 'application/json', familyText(f))
                      }
                    >
                      As a file
                    </Button>{' '}
                    {users === 0 && (
                      <Button
                        variant="quiet"
                        onClick={() => editShop({ kind: 'set-family', familyId: id, family: null })}
                      >
                        Drop
                      </Button>
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </Table>
      )}
      <input
        ref={input}
        type="file"
        accept="application/json"
        hidden
        aria-label="file of a family"
        onChange={(e) => {
          const [file] = e.target.files ?? []
          e.target.value = ''
          if (file) void take(file)
        }}
      />
      <Button variant="quiet" onClick={() => input.current?.click()}>
        Bring in a family
      </Button>
    </section>
  )
}

function readJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
