'use client'
import Link from 'next/link'
import { Fragment } from 'react'
import { type Saving, useLive } from '../live/store'

interface TopBarProps {
  crumbs: { name: string; href?: string }[]
  onFind: () => void
  onKeys: () => void
}

export function TopBar({ crumbs, onFind, onKeys }: TopBarProps) {
  // A shop that has not been heard from has no name yet.
  const named = crumbs.map((c) => ({ ...c, name: c.name || 'Shop' }))
  return (
    <header className="topbar">
      <Link className="brand" href="/">
        Vivid Node
      </Link>
      <span className="crumbs">
        {named.map((c, i) => (
          <Fragment key={c.name}>
            {i > 0 && '\u2002/\u2002'}
            <Crumb name={c.name} href={c.href} first={i === 0} last={i === named.length - 1} />
          </Fragment>
        ))}
      </span>
      <span className="gap" />
      <SavingWords />
      <StoringWords />
      <BrokerWords />
      <button type="button" onClick={onFind}>
        <kbd>/ find</kbd>
      </button>
      <button type="button" onClick={onKeys}>
        <kbd>? keys</kbd>
      </button>
    </header>
  )
}

function savingWords(saving: Saving): string {
  if (saving.state === 'saving') return 'saving …'
  if (saving.state === 'waiting') return 'not saved yet: waiting for the server'
  return saving.at === null ? 'all saved' : `saved ${new Date(saving.at).toLocaleTimeString('en-GB')}`
}

function SavingWords() {
  const saving = useLive((s) => s.saving)
  return (
    <span className="fact" data-saving={saving.state} role="status">
      {savingWords(saving)}
    </span>
  )
}

/** Only where something is wrong with keeping what comes in. */
function StoringWords() {
  const { failing, setAside, waiting } = useLive((s) => s.counts.storing)
  if (!failing && setAside === 0) return null
  const words = failing
    ? `readings not stored since ${new Date(failing.since).toLocaleTimeString('en-GB')}, ${waiting} wait`
    : `${setAside} ${setAside === 1 ? 'value' : 'values'} set aside`
  return (
    <span
      className="fact"
      data-storing={failing ? 'failing' : 'aside'}
      role="status"
      title={failing?.why ?? 'The ledger says which.'}
    >
      {words}
    </span>
  )
}

function BrokerWords() {
  const link = useLive((s) => s.link)
  const heard = useLive((s) => Object.values(s.nodes).filter((n) => n.live.status?.is === 'online').length)
  const away = link === 'lost' ? 'server away' : 'connecting …'
  const words = link === 'up' ? `broker up · ${heard} ${heard === 1 ? 'node' : 'nodes'} heard` : away
  return (
    <span className="fact" data-link={link}>
      {words}
    </span>
  )
}

function Crumb({ name, href, first, last }: { name: string; href?: string; first: boolean; last: boolean }) {
  if (href !== undefined && !last) return <Link href={href}>{name}</Link>
  return last && !first ? <b>{name}</b> : name
}
