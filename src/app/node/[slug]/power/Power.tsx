'use client'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { lastsWords, rangeWords } from '@/core/energy/words'
import { cycleOf } from '@/core/energy/cycle'
import { intervalFor } from '@/core/energy/levers'
import { likelyOf, meanA, phaseCharges, swings, threePoint } from '@/core/energy/life'
import { MONTH_H, YEAR_H } from '@/core/units/hours'
import { Margin } from '@/ui/findings/Margin'
import { editAll, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useEnergy } from '@/ui/plan/useEnergy'
import { Fact } from '@/ui/shell/Fact'
import { Bench } from '../Bench'
import { CycleDrawing } from './CycleDrawing'
import { Inputs } from './Inputs'
import { LeverList } from './LeverList'
import { OwnOrBought } from './OwnOrBought'
import { Rails } from './Rails'
import { Served } from './Served'
import { Solar } from './Solar'
import { amps } from '@/core/units/format'
import { seconds } from './quantities'
import { YearBand } from './YearBand'

export function Power() {
  return <Bench name="Power">{(view) => <PowerOf view={view} />}</Bench>
}

function PowerOf({ view }: { view: NodeView }) {
  const { node, board, catalog, derived } = view
  const { design } = node
  const cycle = useMemo(() => cycleOf(design, board, catalog), [design, board, catalog])
  return (
    <>
      {cycle ? (
        <Lasting view={view} cycle={cycle} />
      ) : (
        <>
          <div className="title">
            <h1>Power</h1>
            <Fact name="fed by" value={fedBy(view)} />
          </div>
          <div className="place">
            <div className="work">
              <p className="pt-3">
                No cell feeds this node: it does not run out. A cell added under Parts, and chosen as what feeds the
                board, is reckoned here.
              </p>
              <Rails view={view} />
              <OwnOrBought view={view} lifeH={null} />
            </div>
            <aside className="margin" aria-label="margin">
              <Margin
                nodeId={node.id}
                design={design}
                findings={derived.findings.filter((f) => f.bench === 'parts')}
                all={derived.findings}
              />
            </aside>
          </div>
        </>
      )}
    </>
  )
}

function fedBy({ node: { design } }: NodeView): string {
  const [part = ''] = design.boardFeed?.split('.') ?? []
  return design.boardFeed === null ? 'USB' : (design.parts[part]?.label ?? design.boardFeed)
}

function Lasting({ view, cycle }: { view: NodeView; cycle: NonNullable<ReturnType<typeof cycleOf>> }) {
  const { node, derived } = view
  const { design } = node
  const three = useMemo(() => threePoint(cycle), [cycle])
  const phases = useMemo(() => phaseCharges(cycle), [cycle])
  const from = useMemo(() => swings(cycle), [cycle])
  const beside = useEnergy(design)
  const drawn = beside?.drawn ?? null
  const list = beside?.levers ?? []
  const [wanted, setWanted] = useState('')
  const mean = meanA(cycle, likelyOf(cycle))
  const life = drawn ? rangeWords(drawn.p10, drawn.p90) : rangeWords(three.low, three.high)
  const [biggest] = [...phases].sort((a, b) => b.share - a.share)
  const [spreadFrom] = from
  return (
    <>
      <div className="title">
        <h1>Power</h1>
        <div className="fact">
          lasts
          <strong className="life" data-life={drawn ? `${drawn.p10} ${drawn.p50} ${drawn.p90}` : ''}>
            {life}
          </strong>
        </div>
        <Fact
          name="cell"
          value={`${cycle.cell.kind.name.split(',')[0]}, ${(cycle.cell.capacityAh * 1000).toFixed(0)} mAh`}
        />
        <Fact name="wakes" value={design.sleep ? `every ${minutes(design.sleep.everyS)}` : 'never sleeps'} />
        <Fact name="a day takes" value={`${(mean * 24_000).toFixed(mean < 0.01 ? 1 : 0)} mAh`} />
        <Ask view={view} wanted={wanted} onWanted={setWanted} />
      </div>
      <div className="place">
        <div className="work">
          <CycleDrawing phases={phases} levers={list} />
          <YearBand three={three} winter={beside?.winter ?? null} drawn={drawn} asked={asked(wanted)} />
          <LeverList nodeId={node.id} levers={list} lifeH={three.likely} />
          <Inputs view={view} inputs={cycle.inputs} />
          <Served view={view} cycle={cycle} />
          <Solar cycle={cycle} />
          <Rails view={view} />
          <OwnOrBought view={view} lifeH={three.likely} />
        </div>
        <aside className="margin" aria-label="margin">
          <section aria-label="why so">
            <h2>why so, and how sure</h2>
            {biggest && (
              <p className="pt-3">
                <b>
                  {biggest.words.charAt(0).toUpperCase() + biggest.words.slice(1)} takes{' '}
                  {Math.round(biggest.share * 100)} %
                </b>{' '}
                of the charge of a cycle: {seconds(biggest.s.likely)} at {amps(biggest.a.likely)}.
              </p>
            )}
            {spreadFrom && (
              <p>
                <b>Most of the range</b> comes from one thing: {spreadFrom.words}. With all else as likely it alone
                makes the difference between {lastsWords(spreadFrom.shortH)} and {lastsWords(spreadFrom.longH)}. A meter
                reading entered below narrows it.
              </p>
            )}
            <p className="small soft">
              The range is that of a hundred thousand draws: nine of ten such nodes reach its lower end, one of ten its
              upper. Every input at its worst gives {lastsWords(three.low)}, at its best {lastsWords(three.high)}.
            </p>
          </section>
          <Margin
            nodeId={node.id}
            design={design}
            findings={derived.findings.filter((f) => POWER_RULES.includes(f.rule))}
            all={derived.findings}
          />
        </aside>
      </div>
    </>
  )
}

/** Rules whose findings are about power, wherever they are mended. */
const POWER_RULES = [
  'rail-overload',
  'regulator-heat',
  'regulator-headroom',
  'bulk-missing',
  'supply-range',
  'sleep-unfit',
  'sleeps-with-outputs',
  'awake-consumers',
  'warm-up-too-long',
  'cell-feeds-nothing',
  'cell-left-unused',
  'cell-cold',
  'charge-rate',
  'fed-while-off',
  'second-feed',
]

const minutes = (s: number): string => (s >= 60 && s % 60 === 0 ? `${s / 60} min` : `${s} s`)
const WISHES = [
  [MONTH_H * 3, 'three months'],
  [MONTH_H * 6, 'half a year'],
  [YEAR_H, 'a year'],
  [YEAR_H * 2, 'two years'],
] as const

/** The life that is asked for, with its words. */
function asked(wanted: string): { hours: number; words: string } | null {
  const wish = WISHES.find(([h]) => String(h) === wanted)
  return wish ? { hours: wish[0], words: wish[1] } : null
}

/** Asked backwards: how rarely must it wake to last so long? */
interface AskProps {
  view: NodeView
  wanted: string
  onWanted: (hours: string) => void
}

function Ask({ view, wanted, onWanted }: AskProps) {
  const { node, catalog } = view
  const hours = Number(wanted)
  const everyS = useMemo(
    () => (hours > 0 ? intervalFor(node.design, catalog, hours) : null),
    [node.design, catalog, hours],
  )
  return (
    <div className="fact">
      <label htmlFor="p-wish">to last</label>
      <div className="d-flex gap-2 align-items-center">
        <Form.Select id="p-wish" className="w-auto" value={wanted} onChange={(e) => onWanted(e.target.value)}>
          <option value="">…</option>
          {WISHES.map(([h, words]) => (
            <option key={h} value={h}>
              {words}
            </option>
          ))}
        </Form.Select>
        {hours > 0 &&
          (everyS === null ? (
            <span className="small">no interval does it: another cell or link</span>
          ) : (
            <Button
              onClick={() => {
                const body = { kind: 'sleep' as const, everyS: round(everyS), listenS: node.design.sleep?.listenS ?? 2 }
                if (editAll(node.id, [body])) say(`Wakes every ${minutes(body.everyS)}. Ctrl-Z takes it back.`)
              }}
              data-interval={everyS}
            >
              wake every {minutes(round(everyS))}
            </Button>
          ))}
      </div>
    </div>
  )
}

/** Up to a time that reads well: whole minutes beyond one. */
const round = (s: number): number => (s > 60 ? Math.ceil(s / 60) * 60 : s)
