'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { type Found, foundSchema } from '@/core/publish/payload'
import { planLines } from '@/core/lines/lines'
import { ask } from '@/ui/live/api'
import { edit } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

const answerSchema = z.object({ found: z.array(foundSchema) })
/** A hand warms a probe by more than this; a draught does not, K. */
const WARMED_K = 1
const CELL = { paddingRight: 18 }

/** Which of several parts on a one-wire line is which: found by the node, told apart by a warm hand. */
export function WireSearch({ view, partId }: { view: NodeView; partId: string }) {
  const {
    node: { id, design, live },
    catalog,
  } = view
  const [first, setFirst] = useState<Found[]>([])
  const [found, setFound] = useState<Found[] | null>(null)
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const line = planLines(design, catalog).find(
    (l) => l.bus?.kind === 'one-wire' && l.members.some((m) => m.partId === partId),
  )
  const rom = design.parts[partId]?.rom ?? null
  if (!line || (line.members.length < 2 && rom === null)) return null
  const ownerOf = (address: string) => Object.entries(design.parts).find(([, p]) => p.rom === address)
  const search = async () => {
    setBusy(true)
    setTrouble(null)
    const answer = await ask(`/api/nodes/${id}/find`, answerSchema, {})
    setBusy(false)
    if (answer.kind !== 'ok') return setTrouble(answer.error)
    if (first.length === 0) setFirst(answer.value.found)
    setFound(answer.value.found)
  }
  const rise = (f: Found) => {
    const before = first.find((o) => o.rom === f.rom)?.celsius
    return f.celsius === null || before == null ? null : f.celsius - before
  }
  const warmest = [...(found ?? [])].sort((a, b) => (rise(b) ?? -99) - (rise(a) ?? -99))[0]
  const searchWords = found ? 'Search again' : 'Search the wire'
  return (
    <div style={{ flexBasis: '100%' }}>
      <Form.Label htmlFor={`${partId}-rom`}>address on the wire</Form.Label>
      <div className="d-flex gap-3 align-items-baseline flex-wrap">
        <output id={`${partId}-rom`} className={rom === null ? 'small' : 'mono'}>
          {rom ?? 'not known yet: until then it gives no reading'}
        </output>
        <Button variant="quiet" size="sm" disabled={busy || live.status?.is !== 'online'} onClick={() => void search()}>
          {busy ? 'Searching …' : searchWords}
        </Button>
        {rom !== null && (
          <Button
            variant="quiet"
            size="sm"
            onClick={() => edit(id, { kind: 'place-part', partId, set: { rom: null } })}
          >
            Forget it
          </Button>
        )}
        {live.status?.is !== 'online' && (
          <span className="small soft">The node has to be online and to run this file.</span>
        )}
      </div>
      {trouble && (
        <div role="alert" className="small">
          {trouble}
        </div>
      )}
      {found && (
        <div role="status" className="small mt-2">
          {found.length === 0 ? (
            'Nobody answers on the wire: pull-up, supply and ground of the probes?'
          ) : (
            <>
              <p>
                Hold one probe in your hand for half a minute and search again: the one that has risen is the one you
                hold.
              </p>
              <table style={{ borderSpacing: '0 4px', borderCollapse: 'separate' }}>
                <tbody>
                  {found.map((f) => {
                    const [owner, part] = ownerOf(f.rom) ?? []
                    const k = rise(f)
                    return (
                      <tr key={f.rom}>
                        <td className="mono" style={CELL}>
                          {f.rom}
                        </td>
                        <td className="text-end" style={{ ...CELL }}>
                          {f.celsius === null ? 'no reading' : `${f.celsius.toFixed(1)} °C`}
                        </td>
                        <td style={CELL}>
                          {k === null || Math.abs(k) < 0.05
                            ? ''
                            : `${k > 0 ? '+' : '−'}${Math.abs(k).toFixed(1)} K since the first search`}
                          {f.rom === warmest?.rom && (k ?? 0) > WARMED_K ? ' · warmed' : ''}
                        </td>
                        <td>
                          {part && (owner === partId ? 'this one' : part.label)}
                          {!part && (
                            <Button
                              variant="quiet"
                              size="sm"
                              onClick={() => edit(id, { kind: 'place-part', partId, set: { rom: f.rom } })}
                            >
                              It is {design.parts[partId]?.label}
                            </Button>
                          )}
                        </td>
                      </tr>
                    )
                  })}
                </tbody>
              </table>
            </>
          )}
        </div>
      )}
    </div>
  )
}
