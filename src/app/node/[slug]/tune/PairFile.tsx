'use client'
import { useState } from 'react'
import { Form } from 'react-bootstrap'
import { readPairs } from '@/core/calibration/readPairs'
import type { TakenPair } from './usePairs'

/** Pairs out of a CSV file, in the published unit. */
export function PairFile({ scale, unit, onPairs }: { scale: number; unit: string; onPairs: (p: TakenPair[]) => void }) {
  const [problem, setProblem] = useState('')
  const take = async (file: File | undefined) => {
    if (!file) return
    const read = readPairs(await file.text())
    if (read.kind === 'none') return setProblem(`${file.name}: ${read.reason}`)
    setProblem('')
    onPairs(
      read.pairs.map(({ raw, reference, u }) => ({
        raw: raw / scale,
        reference: reference / scale,
        ...(u === undefined ? {} : { u: u / scale }),
      })),
    )
  }
  return (
    <details className="small mt-2">
      <summary>Pairs from a file</summary>
      <Form.Label htmlFor="pair-file">
        CSV with columns raw and reference, and uncertainty if stated, or SenML with records of those names, in {unit}
      </Form.Label>
      <Form.Control
        id="pair-file"
        type="file"
        size="sm"
        accept=".csv,.json,text/csv,application/json"
        onChange={(e) => {
          const input = e.target as HTMLInputElement
          // The same file can be taken again.
          void take(input.files?.[0]).then(() => (input.value = ''))
        }}
      />
      {problem && <div role="alert">{problem}</div>}
    </details>
  )
}
