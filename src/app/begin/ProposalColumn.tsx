'use client'
import { Button } from 'react-bootstrap'
import type { Catalog } from '@/core/catalog/catalog'
import type { Proposal } from '@/core/proposals/propose'
import { mendable } from '@/core/proposals/settled'
import { lastsWords, rangeWords } from '@/core/energy/words'
import { inOrder, type Signal } from '@/core/model/design'
import { channelOf } from '@/core/publish/channelOf'
import { planLines } from '@/core/lines/lines'
import { countWords } from '@/ui/findings/countWords'
import { useKeys } from '@/ui/keys/useKeys'
import { Ferrule } from '@/ui/thread/Ferrule'
import { money } from '../node/[slug]/parts/BillOfParts'

const MOST_THREADS = 8

/** One whole node that would do: what it is made of, what speaks for it, what against. */
export function ProposalColumn(props: { proposal: Proposal; catalog: Catalog; n: number; onTake: () => void }) {
  const { proposal, catalog, n, onTake } = props
  const { design, price, life, findings } = proposal
  useKeys({ [String(n)]: onTake })
  const lines = planLines(design, catalog)
  const signals = inOrder(design.signals)
  const cautions = new Set(findings.filter((f) => f.caution !== null).map((f) => f.partId)).size
  const left = mendable(findings)
  const pinsOf = (signal: Signal): string => {
    const own = channelOf(design, catalog, signal)?.lines ?? []
    const of = lines.filter((l) => l.members.some((m) => m.partId === signal.partId && own.includes(m.terminal.id)))
    return of.map((l) => design.plan.pins[l.key] ?? '–').join(' + ')
  }
  return (
    <article className="proposal" aria-label={`proposal ${n}`} data-proposal={n}>
      <h2>{proposal.title}</h2>
      <Button onClick={onTake}>
        <kbd>{n}</kbd>&ensp;Take this one
      </Button>
      <dl>
        <dt>board</dt>
        <dd>{catalog.boards[proposal.board]?.name}</dd>
        <dt>power</dt>
        <dd>{proposal.power}</dd>
        <dt>price</dt>
        <dd>
          {money(price.used)}, bought in packs {money(price.total)}
          {price.readyMade > 0 && <span className="soft"> (ready made about {money(price.readyMade)})</span>}
        </dd>
        {life && (
          <>
            <dt>lasts</dt>
            <dd>
              {rangeWords(life.low, life.high)}, likely {lastsWords(life.likely)}
            </dd>
          </>
        )}
        <dt>threads</dt>
        <dd>
          <ul className="proposal-threads">
            {signals.slice(0, MOST_THREADS).map(({ id, value: s }) => (
              <li key={id}>
                <Ferrule signal={s} /> {s.name} <span className="soft mono">{pinsOf(s)}</span>
              </li>
            ))}
            {signals.length > MOST_THREADS && (
              <li className="soft">and {signals.length - MOST_THREADS} more like them</li>
            )}
          </ul>
        </dd>
      </dl>
      <h3>for it</h3>
      <ul className="reasons-list">
        {proposal.reasons.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      <h3>what it costs you</h3>
      <ul className="reasons-list">
        {proposal.costs.map((c) => (
          <li key={c}>{c}</li>
        ))}
        {cautions > 0 && (
          <li>
            {cautions === 1 ? 'One part has a caution' : `${cautions} parts have cautions`} to be read and signed before
            it is built.
          </li>
        )}
        {left.length > 0 && <li>Still to be mended: {countWords(left)}.</li>}
        {left.slice(0, 3).map((f) => (
          <li key={f.key}>{f.sentence}</li>
        ))}
      </ul>
    </article>
  )
}
