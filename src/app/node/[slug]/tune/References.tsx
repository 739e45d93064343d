'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { calendarFile } from '@/core/references/calendar'
import { saveFile } from '@/ui/files/saveFile'
import { type Recipe, RECIPES } from '@/core/references/recipes'
import { durationWords, fixed } from '@/core/units/format'

interface ReferencesProps {
  quantity: string
  scale: number
  unit: string
  decimals: number
  /** Of whom the calendar reminds. */
  of: string
  onTake: (reference: string, u: string) => void
}

/** What is true at home without an instrument, for this quantity: its value, its arithmetic, its waiting time. */
export function References({ quantity, scale, unit, decimals, of, onTake }: ReferencesProps) {
  const known = RECIPES.filter((r) => r.quantity === quantity)
  const [id, setId] = useState('')
  const [said, setSaid] = useState('')
  if (known.length === 0) return null
  const recipe = known.find((r) => r.id === id)
  const asked = said.trim() === '' ? (recipe?.asks?.usual ?? 0) : Number(said)
  const value = recipe?.value(asked) ?? null
  return (
    <details className="small mt-2" aria-label="references at home">
      <summary>References at home</summary>
      <Form.Label htmlFor="recipe" className="visually-hidden">
        reference
      </Form.Label>
      <Form.Select id="recipe" size="sm" value={id} onChange={(e) => setId(e.target.value)}>
        <option value="">choose one …</option>
        {known.map((r) => (
          <option key={r.id} value={r.id}>
            {r.title}
          </option>
        ))}
      </Form.Select>
      {recipe && (
        <>
          {recipe.asks && (
            <div className="pt-1" style={{ width: 210 }}>
              <Form.Label htmlFor="recipe-asks" className="mb-0">
                {recipe.asks.name}, {recipe.asks.unit}
              </Form.Label>
              <Form.Control
                id="recipe-asks"
                size="sm"
                placeholder={String(recipe.asks.usual)}
                value={said}
                onChange={(e) => setSaid(e.target.value)}
              />
            </div>
          )}
          <p className="pt-2 mb-1" data-reference={value ?? ''}>
            {value === null ? (
              'Nothing is known of it there.'
            ) : (
              <>
                <b>
                  {fixed(value * scale, decimals)} {unit}
                </b>{' '}
                ± {fixed(recipe.u * scale, 2)} (one standard deviation).{' '}
                <Button
                  variant="bare"
                  onClick={() => onTake(fixed(value * scale, decimals + 1).replace('−', '-'), String(recipe.u * scale))}
                >
                  write it in
                </Button>
              </>
            )}
          </p>
          {recipe.cautions.map((c) => (
            <p key={c} className="mb-1">
              <b>{c}</b>
            </p>
          ))}
          <ol className="mb-1 ps-3">
            {recipe.how.map((h) => (
              <li key={h}>{h}</li>
            ))}
          </ol>
          <p className="mb-0">
            Wait {durationWords(recipe.waitMinutes * 60)}.{' '}
            <Button variant="bare" onClick={() => remind(recipe, of)}>
              a reminder for the calendar
            </Button>
          </p>
        </>
      )}
    </details>
  )
}

/** Gives the reader a calendar file for when the waiting is over. */
function remind(recipe: Recipe, of: string): void {
  const now = new Date()
  const file = calendarFile(
    {
      id: crypto.randomUUID(),
      at: new Date(now.getTime() + recipe.waitMinutes * 60_000),
      title: `${of}: ${recipe.title} is ready`,
      text: recipe.how.join(' '),
    },
    now,
  )
  saveFile(`${recipe.id}.ics`, 'text/calendar', file)
}
