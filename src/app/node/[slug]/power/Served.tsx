'use client'
import { useEffect, useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { Cycle } from '@/core/energy/cycle'
import { COMPARED, inService, type InService, type SupplyPoint } from '@/core/energy/inService'
import { readSupply } from '@/core/energy/readSupply'
import { supplySignals } from '@/core/energy/supplySignals'
import { ask } from '@/ui/live/api'
import { editAll, newId, say } from '@/ui/live/store'
import { useClock } from '@/ui/live/useClock'
import type { NodeView } from '@/ui/live/useNode'
import { amps } from '@/core/units/format'
import { SupplyCurve } from './SupplyCurve'

const supplySchema = z.object({
  points: z.array(z.object({ atS: z.number(), volts: z.number(), tempC: z.number().optional() })),
})

/** How a node that hangs somewhere really drains its cell, from the voltages it told or was read at. */
export function Served({ view, cycle }: { view: NodeView; cycle: Cycle }) {
  const { node, catalog } = view
  const { design } = node
  const of = useMemo(() => supplySignals(design, catalog), [design, catalog])
  const [told, setTold] = useState<{ points: SupplyPoint[]; unread: number; from: string } | null>(null)
  useEffect(() => {
    if (!of) return
    let gone = false
    void ask(`/api/nodes/${node.id}/supply`, supplySchema).then((a) => {
      if (!gone && a.kind === 'ok' && a.value.points.length > 0)
        setTold({ points: a.value.points, unread: 0, from: 'what it told itself' })
    })
    return () => {
      gone = true
    }
  }, [node.id, of])
  const calibrated = of !== null && design.signals[of.volts]?.calibration != null
  const found = useMemo(
    () => (told ? inService(told.points, cycle, ...(calibrated ? [COMPARED] : [])) : null),
    [told, cycle, calibrated],
  )
  const take = async (file: File | undefined) => {
    if (!file) return
    const { points, unread } = readSupply(await file.text())
    setTold({ points, unread: unread.length, from: file.name })
  }
  return (
    <section aria-label="in service" className="mt-4">
      <h2>In service</h2>
      {!of && <NoTap view={view} cycle={cycle} />}
      {told && told.points.length > 1 && <SupplyCurve points={told.points} />}
      {told && (
        <p className="small soft">
          {told.points.length} voltages from {told.from}
          {told.unread > 0 ? `; ${told.unread} lines could not be read and were left out` : ''}.
        </p>
      )}
      {told &&
        (found ? (
          <Found of={found} calibrated={calibrated} />
        ) : (
          <p className="mt-2">
            Too little to tell: five readings or more over two days, between full and empty. Measure the cell at rest,
            at the same time of day.
          </p>
        ))}
      <Form.Label htmlFor="p-supply" className="mt-2">
        voltages from elsewhere, CSV with the columns time, volts, temperature
      </Form.Label>
      <Form.Control
        id="p-supply"
        type="file"
        accept=".csv,text/csv"
        style={{ maxWidth: 420 }}
        onChange={(e) => void take((e.target as HTMLInputElement).files?.[0])}
      />
    </section>
  )
}

/** A node that cannot measure what feeds it: two resistors let it. */
function NoTap({ view, cycle }: { view: NodeView; cycle: Cycle }) {
  const { node, catalog } = view
  const kind = catalog.parts['supply-tap']
  const source = cycle.cell.kind.terminals.find((t) => t.role === 'source')
  const vin = kind?.terminals.find((t) => t.role === 'supply')
  if (!kind || !source || vin?.role !== 'supply') return null
  if (source.maxV > vin.maxV)
    return (
      <p className="small">
        It does not tell the voltage of its cell. Up to {source.maxV} V is too much for two equal resistors: a divider
        of its own goes to an analog pin.
      </p>
    )
  const put = (part: string) => {
    const partId = newId()
    const done = editAll(node.id, [
      {
        kind: 'add-part',
        partId,
        part,
        label: 'Tap at the cell',
        signals: [{ id: newId(), channel: 'supply', name: 'cell', slug: 'cell' }],
      },
      { kind: 'feed', partId, terminal: 'vin', rail: `${cycle.cell.partId}.${source.id}` },
    ])
    if (done) say('Two resistors at the cell are in the design. Ctrl-Z takes them out.')
  }
  return (
    <p>
      It does not tell the voltage of its cell. Two resistors at an analog pin let it; they take {amps(vin.idleA)} for
      ever, which is counted, or nothing asleep behind a transistor and one more pin.{' '}
      <Button variant="quiet" onClick={() => put('supply-tap')}>
        Put them in
      </Button>{' '}
      <Button variant="quiet" onClick={() => put('supply-tap-switched')}>
        Put them in switched
      </Button>
    </p>
  )
}

function Found({ of, calibrated }: { of: InService; calibrated: boolean }) {
  const day = (s: number) => new Date(s * 1000).toLocaleDateString('en-GB')
  const times = of.drainA / of.designedA
  const now = useClock() / 1000
  return (
    <div className="mt-2" data-drain={of.drainA}>
      <p>
        It drains <b>{amps(of.drainA)}</b> ± {amps(of.errorA)} (95 %), from {of.points} readings over{' '}
        {of.days.toFixed(0)} days; designed are {amps(of.designedA)}: {times.toFixed(1)} times as much.{' '}
        {Math.round(of.left * 100)} % of its charge is left
        {of.chargedS === null ? '' : `, since it was charged on ${day(of.chargedS)}`}.
      </p>
      <p>{dateWords(of, now, day)}</p>
      {!calibrated && (
        <p className="small soft">
          Most of the range is that two resistors and a converter may be off by 1.5 %: one pair against a meter on the
          Tune bench narrows it.
        </p>
      )}
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

function dateWords({ emptyS }: InService, now: number, day: (s: number) => string): string {
  if (!emptyS) return 'The drain cannot be told from none yet: wait, and read it again.'
  if (emptyS.to < now) return `It was to be changed or charged by ${day(emptyS.to)}.`
  if (emptyS.from < now) return `To be changed or charged now, by ${day(emptyS.to)} at the latest.`
  return `To be changed or charged between ${day(emptyS.from)} and ${day(emptyS.to)}.`
}
