'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Proposal } from '@/core/proposals/propose'
import { POWERS, type Power } from '@/core/proposals/readWish'
import { inOrder } from '@/core/model/design'
import { say, useLive } from '@/ui/live/store'
import { useProposals } from '@/ui/plan/useProposals'
import { ProposalColumn } from './ProposalColumn'
import { useBeginNode } from './useBeginNode'

const POWER_WORDS: Record<Power, string> = {
  usb: 'a USB charger',
  '5v': 'a 5 V supply, wired in',
  '12v': '12 V',
  '24v-ac': '24 V AC that is there',
  cell: 'a cell',
}

const EXAMPLES = [
  'Light in the glaze store while somebody is there, by distance',
  'Six toggles whose lamps light when off',
  'How full the slip tank is, and a pump',
  'Temperature and humidity every ten minutes, on 1 000 mAh',
]

/** The wish, where it will be and how it is fed; beside it the whole nodes that would do. */
export function WishWork() {
  const loaded = useLive((s) => s.loaded)
  const places = useLive((s) => s.shop.places)
  const catalog = useLive((s) => s.catalog)
  const [text, setText] = useState('')
  const [place, setPlace] = useState('')
  const [named, setNamed] = useState<string | null>(null)
  const [power, setPower] = useState<Power | null>(null)
  const [alone, setAlone] = useState(true)
  const { begin, said, wrong } = useBeginNode()
  const { proposed, busy, stop } = useProposals({ text, power, alone })
  const proposals = proposed?.proposals ?? []
  const [first] = proposals
  const name = named ?? (first ? nameFor(text, place, first) : '')

  const take = async (proposal: Proposal) => {
    if (await begin({ name, place, board: proposal.board }, proposal.edits))
      say('Begun as proposed: parts, wires, pins and rules can all be changed.')
  }

  return (
    <div className="place wish-place">
      <div className="work wish" role="region" aria-label="the wish">
        <Form.Label htmlFor="wish" className="wish-question">
          What should it know or do?
        </Form.Label>
        <Form.Control
          as="textarea"
          id="wish"
          rows={3}
          autoFocus
          value={text}
          maxLength={300}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            // Enter ends the wish: the first node that would do is next.
            if (e.key !== 'Enter' || e.shiftKey) return
            e.preventDefault()
            document.querySelector<HTMLElement>('[data-proposal="1"] button')?.focus()
          }}
          placeholder="in your own words"
        />
        {text === '' && (
          <ul className="plain examples">
            {EXAMPLES.map((e) => (
              <li key={e}>
                <Button variant="bare" onClick={() => setText(e)}>
                  {e}
                </Button>
              </li>
            ))}
          </ul>
        )}
        <Form.Label htmlFor="wish-place" className="mt-3">
          where it will be
        </Form.Label>
        <Form.Control
          id="wish-place"
          value={place}
          list="wish-places"
          autoComplete="off"
          onChange={(e) => setPlace(e.target.value)}
        />
        <datalist id="wish-places">
          {inOrder(places).map(({ id, value }) => (
            <option key={id} value={value.name} />
          ))}
        </datalist>
        {said('place')}
        <fieldset className="mt-3">
          <legend className="form-label">powered by</legend>
          <div className="chips">
            {[null, ...POWERS].map((p) => (
              <button key={p ?? 'words'} type="button" aria-pressed={power === p} onClick={() => setPower(p)}>
                {p === null ? `as the words say${asRead(proposed?.read.power)}` : POWER_WORDS[p]}
              </button>
            ))}
          </div>
        </fieldset>
        <Form.Check
          className="mt-3"
          id="wish-alone"
          checked={alone}
          onChange={(e) => setAlone(e.target.checked)}
          label="what it switches must go on without network"
        />
        <Form.Label htmlFor="wish-name" className="mt-3">
          its name
        </Form.Label>
        <Form.Control
          id="wish-name"
          value={name}
          autoComplete="off"
          isInvalid={wrong === 'name'}
          onChange={(e) => setNamed(e.target.value)}
        />
        {said('name')}
        {proposed && <Understood proposed={proposed} />}
      </div>
      <div className="work proposals" role="region" aria-label="what would do" aria-busy={busy} tabIndex={0}>
        {proposals.map((p, i) => (
          <ProposalColumn key={p.title} proposal={p} catalog={catalog} n={i + 1} onTake={() => void take(p)} />
        ))}
        {busy && (
          <p className="soft" role="status">
            Putting nodes together and checking them …{' '}
            <Button variant="bare" onClick={stop}>
              stop
            </Button>
          </p>
        )}
        {!busy && text.trim().length >= 3 && proposals.length === 0 && <NothingYet known={proposed !== null} />}
        {text.trim().length < 3 && loaded && (
          <p className="soft">
            Two or three whole nodes appear here, each with board, parts, wiring, pins, power, price and what speaks
            against it. Nothing is begun before you take one.
          </p>
        )}
      </div>
    </div>
  )
}

const asRead = (power: Power | null | undefined): string => (power ? `: ${POWER_WORDS[power]}` : '')

/** What the words were taken for, and what of them cannot be done yet. */
function Understood({
  proposed: { read, notYet },
}: {
  proposed: NonNullable<ReturnType<typeof useProposals>['proposed']>
}) {
  return (
    <div className="mt-3 small" data-understood>
      {read.needs.length > 0 && (
        <p className="mb-1">
          <span className="soft">understood:</span>{' '}
          {read.needs.map(({ need, count }) => (count > 1 ? `${need.asks} (${count})` : need.asks)).join('; ')}
        </p>
      )}
      {notYet.map((words) => (
        <p key={words} className="mb-1" data-not-yet>
          <b>Not yet:</b> {words}
        </p>
      ))}
    </div>
  )
}

function NothingYet({ known }: { known: boolean }) {
  return (
    <p role="status">
      {known
        ? 'Nothing on the shelf answers to these words by itself. Say it in other words, or begin with a board alone and look through the shelf.'
        : 'The search was stopped, or ended with an error: change a word to begin it anew.'}
    </p>
  )
}

/** What the wish is called before its first comma or colon, else place and first signal: `Glaze store light`. */
function nameFor(text: string, place: string, { design }: Proposal): string {
  const [head = ''] = text.split(/[,:;.]/)
  const short = head.trim()
  const signal = inOrder(design.signals)[0]?.value.name ?? 'node'
  const words = short.length > 0 && short.length <= 32 ? short : `${place} ${signal}`.trim()
  return words.charAt(0).toUpperCase() + words.slice(1)
}
