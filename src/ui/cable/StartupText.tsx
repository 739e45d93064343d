import { Fragment } from 'react'
import { factWords } from '@/core/startup/factWords'
import type { StartReading } from '@/core/startup/readStartup'

/** What a board said: on top what is wrong or how far it came, and what to try; below line by line. */
export function StartupText({ reading }: { reading: StartReading }) {
  const { head, lines, starts } = reading
  const facts = factWords(reading.facts)
  return (
    <section aria-label="start-up text" data-startup={head.kind}>
      <p className={head.kind === 'fine' ? 'startup-head' : 'startup-head is-wrong'} role="status">
        {head.text}
      </p>
      {head.next.length > 0 && (
        <ol className="startup-next">
          {head.next.map((what) => (
            <li key={what}>{what}</li>
          ))}
        </ol>
      )}
      {facts.length > 0 && (
        <dl className="facts" aria-label="taken out">
          {facts.map(([name, value]) => (
            <Fragment key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </Fragment>
          ))}
        </dl>
      )}
      {lines.length > 0 && (
        <ol className="startup-lines" aria-label="lines" tabIndex={0}>
          {lines.map((l) => (
            <li
              key={l.n}
              className={[
                head.line === l.n ? 'decides' : '',
                starts.length > 1 && starts.some((s) => s.firstLine === l.n) ? 'begins' : '',
              ]
                .filter(Boolean)
                .join(' ')}
            >
              <code>{l.text === '' ? '\u00a0' : l.text}</code>
              {l.means !== null && <span>{l.means}</span>}
            </li>
          ))}
        </ol>
      )}
    </section>
  )
}
