'use client'
import { useState } from 'react'
import { Form } from 'react-bootstrap'
import type { Cycle } from '@/core/energy/cycle'
import { inService, type InService } from '@/core/energy/inService'
import { readSupply } from '@/core/energy/readSupply'
import { amps } from './quantities'

/** How a node that hangs somewhere really drains its cell, from the voltages it was read at. */
export function Served({ cycle }: { cycle: Cycle }) {
  const [told, setTold] = useState<{ result: InService | null; unread: number } | null>(null)
  const take = async (file: File | undefined) => {
    if (!file) return
    const { points, unread } = readSupply(await file.text())
    setTold({ result: inService(points, cycle), unread: unread.length })
  }
  return (
    <section aria-label="in service" className="mt-4">
      <h2>In service</h2>
      <Form.Label htmlFor="p-supply">
        voltages of its cell over time, CSV with the columns time, volts, temperature
      </Form.Label>
      <Form.Control
        id="p-supply"
        type="file"
        accept=".csv,text/csv"
        style={{ maxWidth: 420 }}
        onChange={(e) => void take((e.target as HTMLInputElement).files?.[0])}
      />
      {told && told.unread > 0 && (
        <p className="small mt-2">{told.unread} lines could not be read and were left out.</p>
      )}
      {told &&
        (told.result ? (
          <Found of={told.result} />
        ) : (
          <p className="mt-2">
            Too little to tell: five readings or more over two days, between full and empty. Measure the cell at rest,
            at the same time of day.
          </p>
        ))}
    </section>
  )
}

function Found({ of }: { of: InService }) {
  const day = (s: number) => new Date(s * 1000).toLocaleDateString('en-GB')
  const times = of.drainA / of.designedA
  return (
    <div className="mt-2" data-drain={of.drainA}>
      <p>
        It drains <b>{amps(of.drainA)}</b> ± {amps(of.errorA)} (95 %), from {of.points} readings over{' '}
        {of.days.toFixed(0)} days; designed are {amps(of.designedA)}: {times.toFixed(1)} times as much.{' '}
        {Math.round(of.left * 100)} % of its charge is left.
      </p>
      <p>
        {of.emptyS
          ? `To be changed or charged between ${day(of.emptyS.from)} and ${day(of.emptyS.to)}.`
          : 'The drain cannot be told from none yet: wait, and read it again.'}
      </p>
      {of.whys.length > 0 && (
        <ol>
          {of.whys.map((w) => (
            <li key={w}>{w}</li>
          ))}
        </ol>
      )}
    </div>
  )
}
