'use client'
import { type ReactNode, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { Becomes } from '@/core/model/senderFrom'
import { judge, type Judged, type Press, tellsApart } from '@/core/radio/learning'
import type { InTheAir } from '@/core/radio/candidates'
import { type Changing, changingCodes } from '@/core/radio/changing'
import { learntFrom } from '@/core/radio/candidates'
import { Bits } from '@/ui/air/Bits'
import { Lanes } from '@/ui/air/Lanes'
import type { useAir } from '@/ui/air/useAir'
import { useKeys } from '@/ui/keys/useKeys'
import { ask } from '@/ui/live/api'
import { useClock } from '@/ui/live/useClock'
import { type ClientNode, say, useLive } from '@/ui/live/store'
import { AIR_TRIGGERS } from '@/wire/deeds'
import { nameOf } from './Heard'
import { KeepForm } from './KeepForm'

const SHOWN = 6
/** Presses of one key before the next is asked for. */
const EACH_KEY = 2
const MINUTE_MS = 60_000
const KEYS = 'abcdefghijklmnop'

const KINDS: { becomes: Becomes; name: string }[] = [
  { becomes: 'two codes', name: 'says open and closed' },
  { becomes: 'event', name: 'says one thing' },
  { becomes: 'keys', name: 'has several keys' },
]

/** What to do now: the n-th press asks for it. */
function asks(becomes: Becomes, presses: readonly Press[], step: number): string {
  const last = presses.at(-1)
  if (becomes === 'keys') return `Press key ${KEYS[step] ?? step + 1} when you like, and Space each time you do.`
  if (becomes !== 'two codes') return 'Trigger it when you like. Press Space each time you do.'
  return last?.step === 0
    ? '… now close it, and press Space as you do.'
    : 'Open it when you like. Press Space each time you do.'
}

const pressedNow = (presses: readonly Press[], step: number): Press[] => [...presses, { atMs: Date.now(), step }]

/** In the demo a stand-in’s hand does it, a moment after the press. */
async function somebodyDoesIt(trigger: string, which: number): Promise<void> {
  const inS = 0.25 + 0.3 * Math.random()
  const a = await ask('/api/standin', z.unknown(), { air: { trigger, which, inS } })
  if (a.kind !== 'ok') say(a.error, 'refused')
}

/** Which step the next press is of: key by key, opened and closed in turn, or always the one. */
function nextStep(becomes: Becomes, presses: readonly Press[], key: number): number {
  if (becomes === 'keys') return key
  return becomes === 'two codes' && presses.at(-1)?.step === 0 ? 1 : 0
}

/** Catches a sender by a person’s presses: which of everything in the air answers to them, and to nothing else. */
export function Learn({
  air,
  gateways,
  onDone,
}: {
  air: ReturnType<typeof useAir>
  gateways: readonly ClientNode[]
  onDone: () => void
}) {
  const { shop, demo } = useLive()
  const now = useClock()
  const [becomes, setBecomes] = useState<Becomes>('two codes')
  const [presses, setPresses] = useState<Press[]>([])
  const [key, setKey] = useState(0)
  const [who, setWho] = useState<string>(AIR_TRIGGERS[0])
  const [chosen, setChosen] = useState(false)
  const step = nextStep(becomes, presses, key)

  const press = () => {
    const next = pressedNow(presses, step)
    setPresses(next)
    if (becomes === 'keys' && next.filter((p) => p.step === key).length >= EACH_KEY) setKey(key + 1)
    if (demo) void somebodyDoesIt(who, step)
  }
  useKeys({ Space: press, Escape: onDone }, { off: chosen })

  const heard = air.recent(now)
  const verdict = judge(
    presses,
    heard,
    air.listening.sinceMs ?? presses[0]?.atMs ?? now,
    Math.max(now, presses.at(-1)?.atMs ?? 0),
  )
  const winner = heard.find((h) => h.id === verdict.winner)
  const changing = winner ? null : changingCodes(presses, heard, now)
  const best = verdict.ranking[0]
  const apart = best !== undefined && winner !== undefined && isTold(becomes, best.codes)
  const fromMs = Math.min(presses[0] ? presses[0].atMs - 8000 : now - 20_000, now - 20_000)
  const again = () => {
    setPresses([])
    setKey(0)
    setChosen(false)
  }
  const others = verdict.ranking.slice(0, SHOWN)
  return (
    <section className="learn">
      <KindChoice
        becomes={becomes}
        onChoose={(chosenKind) => {
          setBecomes(chosenKind)
          again()
        }}
      />
      {demo && <Somebody who={who} onChoose={setWho} />}
      <h2 className="learn-ask" aria-live="polite">
        {winner && apart ? 'That is it.' : asks(becomes, presses, step)}
      </h2>
      <Lanes
        presses={presses}
        fromMs={Math.max(fromMs, now - 3 * MINUTE_MS)}
        toMs={now}
        lanes={others.flatMap((j) => {
          const h = heard.find((x) => x.id === j.id)
          return h ? [laneOf(h, j, nameOf(h, shop), winner?.id === h.id, presses.length)] : []
        })}
      />
      {others.length === 0 && (
        <p className="pt-2">
          Nothing is in the air yet.{' '}
          {presses.length > 2 ? 'If it stays so, no receiver hears it: bring it nearer, look at its cell.' : ''}
        </p>
      )}
      <p className="pt-2 mb-1" role="status">
        {changing
          ? changingWords(changing, presses.length)
          : standing(presses, verdict.odds10, verdict.more, winner !== undefined)}{' '}
        <Button variant="quiet" onClick={press} disabled={chosen}>
          I did it <span className="digit">Space</span>
        </Button>{' '}
        {presses.length > 0 && (
          <Button variant="quiet" onClick={again}>
            Begin anew
          </Button>
        )}{' '}
        <Button variant="quiet" onClick={onDone}>
          Leave
        </Button>
      </p>
      {winner && best && (
        <Found becomes={becomes} found={winner} codes={best.codes} pressed={presses.length}>
          <KeepForm
            becomes={becomes}
            found={winner}
            codes={best.codes.filter((c) => c !== null)}
            gateways={gateways}
            onOpen={() => setChosen(true)}
            onKept={onDone}
          />
        </Found>
      )}
    </section>
  )
}

/** What the winner says; once every step was heard and they differ, what keeps it. */
function Found({
  becomes,
  found,
  codes,
  pressed,
  children,
}: {
  becomes: Becomes
  found: InTheAir
  codes: (string | null)[]
  pressed: number
  children: ReactNode
}) {
  const same = becomes === 'two codes' && pressed > 3
  return (
    <>
      <WhatItSays codes={codes} becomes={becomes} family={found.family.name} />
      {isTold(becomes, codes) ? children : <p>{same ? ONE_CODE : 'One press of each is still needed.'}</p>}
    </>
  )
}

function KindChoice({ becomes, onChoose }: { becomes: Becomes; onChoose: (becomes: Becomes) => void }) {
  return (
    <p className="small soft mb-1">
      Esc leaves.{' '}
      {KINDS.map((k) => (
        <Form.Check
          key={k.becomes}
          inline
          type="radio"
          id={`becomes-${k.becomes.replace(' ', '-')}`}
          name="becomes"
          label={k.name}
          checked={becomes === k.becomes}
          onChange={(e) => {
            // The keys are for pressing now, not for this choice.
            e.currentTarget.blur()
            onChoose(k.becomes)
          }}
        />
      ))}
    </p>
  )
}

function Somebody({ who, onChoose }: { who: string; onChoose: (who: string) => void }) {
  return (
    <p className="small mb-1">
      In the demo somebody stands at{' '}
      <Form.Select
        className="d-inline-block w-auto"
        size="sm"
        aria-label="who is triggered"
        value={who}
        onChange={(e) => {
          e.currentTarget.blur()
          onChoose(e.target.value)
        }}
      >
        {AIR_TRIGGERS.map((t) => (
          <option key={t}>{t}</option>
        ))}
      </Form.Select>{' '}
      and does it when you press.
    </p>
  )
}

/** Whether every step that this kind has was heard, each otherwise: both of two, two keys at least, one of one. */
const isTold = (becomes: Becomes, codes: Judged['codes']): boolean =>
  codes.length >= (becomes === 'two codes' || becomes === 'keys' ? 2 : 1) && tellsApart(codes)

const ONE_CODE = 'It says the same for both: it has one code only. Choose “says one thing”.'

function laneOf(h: InTheAir, j: Judged, name: string, best: boolean, pressed: number) {
  const odds = oddsWords(j.log10)
  const nothing = j.hits > 0 ? ', nothing else' : ''
  const besides = j.extras > 0 ? `, ${j.extras} besides` : nothing
  return { id: h.id, name, arrivals: h.arrivals, odds, best, detail: `${j.hits} of ${pressed}${besides}` }
}

/** `1 : 5 200` that it is not; `40 : 1 against`. */
function oddsWords(log10: number): string {
  if (!Number.isFinite(log10)) return 'nothing yet'
  const n = Number((10 ** Math.min(12, Math.abs(log10))).toPrecision(2))
  const told = n >= 1e9 ? 'a thousand million' : n.toLocaleString('en').replace(/,/g, ' ')
  return log10 >= 0 ? `${told} : 1 for it` : `${told} : 1 against`
}

function standing(presses: readonly Press[], odds10: number, more: number | null, won: boolean): string {
  if (presses.length === 0) return 'Take your time: what counts is that you press as you do it.'
  if (won) return `${presses.length} presses; ${oddsWords(odds10)}, over all others together.`
  if (more !== null) return `${more === 1 ? 'One press' : `About ${more} presses`} more should make it certain.`
  if (presses.length < 3) return 'Go on.'
  return 'Nothing answers to your presses alone. Is it heard at all? Two that answer alike cannot be told apart by pressing.'
}

const changingWords = ({ family, answered }: Changing, pressed: number): string =>
  `${answered} of ${pressed} presses were answered, each by another code of “${family}”: its codes change with every press. Such a sender cannot be learnt by its code, and a copy of one opens nothing; it is left alone.`

const SAYS: Record<Becomes, string[]> = {
  'two codes': ['opened', 'closed'],
  keys: [...KEYS].map((k) => `key ${k}`),
  event: ['says'],
  'ending state': ['says'],
}

function WhatItSays({ codes, becomes, family }: { codes: (string | null)[]; becomes: Becomes; family: string }) {
  const known = codes.filter((c) => c !== null)
  const { differing } = learntFrom(known)
  const names = SAYS[becomes]
  return (
    <div className="says">
      <h3 className="h6 mb-1">what it says</h3>
      {codes.map((code, i) =>
        code === null ? null : (
          <div key={i} className="says-row">
            <span className="small soft">{names[i] ?? ''}</span>
            <Bits code={code} marked={differing} />
          </div>
        ),
      )}
      <p className="small mb-1">
        {known[0]?.length} bits of “{family}”.{' '}
        {known.length > 1 && differing.length > 0 && (
          <>
            {differing.length === 1 ? 'One differs' : `${differing.length} differ`}:{' '}
            <b className="mono">
              {known.map((c, i) => `${differing.map((d) => c[d]).join('')} ${names[i] ?? ''}`).join(', ')}
            </b>
            {becomes === 'two codes' && '. It says both, so it can be a state.'}
          </>
        )}
      </p>
    </div>
  )
}
