'use client'
import { Form } from 'react-bootstrap'
import type { Compared } from '@/core/calibration/compare'
import { MODELS, type ModelName } from '@/core/calibration/models'
import { fixed } from '@/core/units/format'

interface ModelTableProps {
  all: readonly Compared[]
  chosen: ModelName
  proposed: ModelName | null
  scale: number
  unit: string
  decimals: number
  onChoose: (m: ModelName) => void
}

/** Every model over the same pairs: how far it misses pairs it has not seen, and what it is for or why it cannot be. */
export function ModelTable({ all, chosen, proposed, scale, unit, decimals, onChoose }: ModelTableProps) {
  return (
    <table className="table mt-3" aria-label="models">
      <thead>
        <tr>
          <th scope="col">model</th>
          <th scope="col">misses a left-out pair by</th>
        </tr>
      </thead>
      <tbody>
        {all.map(({ model, fitted, reason }) => (
          <tr key={model} data-model={model} className={fitted ? '' : 'soft'}>
            <td>
              <Form.Check
                type="radio"
                id={`model-${model}`}
                name="model"
                label={`${MODELS[model].title}${model === proposed ? ' — proposed' : ''}`}
                checked={model === chosen}
                disabled={!fitted}
                onChange={() => onChoose(model)}
              />
              {model === chosen && <p className="small soft mb-0">{MODELS[model].use}</p>}
            </td>
            <td className="small">{missed(fitted?.leftOut ?? null, reason, scale, unit, decimals)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function missed(leftOut: number | null, reason: string | null, scale: number, unit: string, decimals: number): string {
  if (reason !== null) return reason
  return leftOut === null ? 'too few pairs to tell' : `${fixed(leftOut * scale, decimals)} ${unit}`
}
