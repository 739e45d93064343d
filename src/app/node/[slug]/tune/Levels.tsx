'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { isTwoWay, type Levels as LevelsOf, levelsSchema, withMoreWord, withoutWord } from '@/core/catalog/levels'
import { channelOf } from '@/core/publish/channelOf'
import { unitFactor } from '@/core/units/convert'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { ask } from '@/ui/live/api'
import { edit, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { LevelScale } from './LevelScale'

const word = z.string().trim().min(1, 'Found nothing, expected a word.').max(24, 'Expected at most 24 characters.')

/** Words of a state made of a reading, what parts them, and how long each has to last. */
export function Levels({ view, signalId }: { view: NodeView; signalId: string }) {
  const { node, catalog } = view
  const { design } = node
  const signal = design.signals[signalId]
  const levels = signal?.conditioning.levels
  const source = design.signals[signal?.of ?? '']
  const reading = source && channelOf(design, catalog, source)
  if (!signal || !levels || !source || reading?.access !== 'reading') return null
  const { unit } = source.publish
  const factor = unitFactor(reading.unit, unit)
  const shown = (v: number) => String(Number((v * factor).toPrecision(6)))
  const typed = numberIn(-1e6, 1e6, unit)
  const save = (change: Partial<LevelsOf>) => {
    const next = levelsSchema.safeParse({ ...levels, ...change })
    if (next.success) edit(node.id, { kind: 'condition', signalId, set: { levels: next.data } })
    else say(`${next.error.issues[0]?.message ?? 'This is not accepted'} is expected; nothing was changed.`, 'refused')
  }
  const at = <T,>(list: readonly T[], i: number, value: T) => list.map((x, j) => (j === i ? value : x))
  const more = () => save(withMoreWord(levels, reading.range))
  const drop = (i: number) => save(withoutWord(levels, i))
  const last = node.live.values[signal.of ?? '']
  const now = typeof last?.value === 'number' ? last.value / factor : null
  return (
    <section aria-label="words of the state" className="pt-3">
      <LevelScale levels={levels} now={now} range={reading.range} shown={shown} unit={unit} />
      <table className="table levels">
        <thead>
          <tr>
            <th scope="col">word</th>
            <th scope="col">from</th>
            <th scope="col">counts after</th>
            <th scope="col">told as</th>
            <th scope="col">
              <span className="visually-hidden">drop it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {levels.words.map((w, i) => (
            <tr key={i} data-word={w}>
              <td>
                <EditField
                  id={`word-${i}`}
                  label={`word ${i + 1}`}
                  hideLabel
                  width={170}
                  value={w}
                  schema={word}
                  onSave={(v) => save({ words: at(levels.words, i, v) })}
                />
              </td>
              <td data-label="from">
                {i === 0 ? (
                  <span className="soft">the lowest</span>
                ) : (
                  <EditField
                    id={`cut-${i}`}
                    label={`${w} from`}
                    hideLabel
                    width={130}
                    unit={unit}
                    value={levels.cuts[i - 1] ?? 0}
                    show={shown}
                    schema={typed.transform((v) => v / factor)}
                    onSave={(v) => save({ cuts: at(levels.cuts, i - 1, v) })}
                  />
                )}
              </td>
              <td data-label="counts after">
                <EditField
                  id={`hold-${i}`}
                  label={`${w} counts after`}
                  hideLabel
                  width={110}
                  unit="s"
                  value={levels.holdS[i] ?? 0}
                  schema={numberIn(0, 86_400, 's')}
                  onSave={(v) => save({ holdS: at(levels.holdS, i, v) })}
                />
              </td>
              <td data-label="told as">
                {isTwoWay(levels) ? (
                  <Form.Check
                    type="radio"
                    id={`true-${i}`}
                    name="told-true"
                    label={levels.on === i ? 'true' : 'false'}
                    aria-label={`${w} is told as true`}
                    checked={levels.on === i}
                    onChange={() => save({ on: i })}
                  />
                ) : (
                  <span className="mono">“{w}”</span>
                )}
              </td>
              <td>
                {levels.words.length > 2 && (
                  <Button variant="bare" aria-label={`drop ${w}`} onClick={() => drop(i)}>
                    drop
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="fields">
        <EditField
          id="band"
          label="band"
          unit={unit}
          width={130}
          value={levels.band}
          show={shown}
          schema={numberIn(0, 1e6, unit).transform((v) => v / factor)}
          onSave={(band) => save({ band })}
        />
        <div>
          <Form.Label htmlFor="unknown-as">unknown counts as</Form.Label>
          <Form.Select
            id="unknown-as"
            value={levels.unknown ?? ''}
            onChange={(e) => save({ unknown: e.target.value === '' ? null : Number(e.target.value) })}
          >
            <option value="">unknown</option>
            {levels.words.map((w, i) => (
              <option key={w} value={i}>
                {w}
              </option>
            ))}
          </Form.Select>
        </div>
        <EditField
          id="shift"
          label="a command may shift it by ±"
          unit={unit}
          width={130}
          value={levels.shift ?? 0}
          show={shown}
          schema={numberIn(0, 1e6, unit).transform((v) => v / factor)}
          onSave={(shift) => save({ shift: shift > 0 ? shift : undefined })}
        />
        {levels.words.length < 5 && (
          <Button variant="quiet" onClick={more}>
            One more word
          </Button>
        )}
      </div>
      {levels.shift !== undefined && (
        <ShiftNow nodeId={node.id} signalId={signalId} most={levels.shift} factor={factor} unit={unit} />
      )}
      <p className="small soft pt-2">
        The first value after power-up or after unknown begins the state at once and sets off no rule. Whatever unknown
        counts as for others, this node’s own rules take it as unknown.
        {design.sleep && levels.holdS.some((s) => s > 0)
          ? ' This node sleeps: every waking begins anew, so a word counts at once whatever its time.'
          : ''}
      </p>
    </section>
  )
}

interface ShiftProps {
  nodeId: string
  signalId: string
  most: number
  factor: number
  unit: string
}

/** How sensitive it is, set on the node by a command as a controller would: added to its cuts, kept over a restart. */
function ShiftNow({ nodeId, signalId, most, factor, unit }: ShiftProps) {
  const [by, setBy] = useState('0')
  const [said, setSaid] = useState('')
  const send = async () => {
    const parsed = numberIn(-most * factor, most * factor, unit).safeParse(by)
    if (!parsed.success) return setSaid(parsed.error.issues[0]?.message ?? '')
    const value = Number((parsed.data / factor).toPrecision(6))
    const a = await ask(`/api/nodes/${nodeId}/command`, z.object({ ms: z.number() }), { signal: signalId, value })
    setSaid(a.kind === 'ok' ? `The node has it, after ${a.value.ms} ms.` : a.error)
  }
  return (
    <div className="fields pt-2">
      <div>
        <Form.Label htmlFor="shift-now">shift it on the node now by, {unit}</Form.Label>
        <Form.Control id="shift-now" value={by} style={{ width: 110 }} onChange={(e) => setBy(e.target.value)} />
      </div>
      <Button variant="quiet" onClick={() => void send()}>
        Shift
      </Button>
      <span className="small soft" role="status">
        {said}
      </span>
    </div>
  )
}
