'use client'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { type ReactNode, useMemo, useState } from 'react'
import type { Finding } from '../../core/checks/finding'
import { countWords } from '../findings/countWords'
import { useKeepFocus } from '../keys/useKeepFocus'
import { useKeys } from '../keys/useKeys'
import { redo, undo, useLive } from '../live/store'
import { useConnection } from '../live/useConnection'
import { ThreadPatterns } from '../thread/ThreadRun'
import { Finder } from './Finder'
import { KeysSheet } from './KeysSheet'
import { SaidLine } from './SaidLine'
import { TopBar } from './TopBar'
import { type Place, type PlaceName, shopPlaces } from './places'

interface ShellProps {
  crumbs: { name: string; href?: string }[]
  /** Those of the shop when none are given. */
  places?: Place[]
  here: PlaceName | null
  /** Where Escape leads. */
  back: string | null
  /** What Ctrl-Z takes back: a node's edits, or with null those of the shop document; nothing when not given. */
  nodeId?: string | null
  last?: ReactNode
  children: ReactNode
}

/** What every screen stands in: head line, the places at the bottom, keys, and the link to the server. */
export function Shell({ crumbs, places: given, here, back, nodeId, last, children }: ShellProps) {
  const demo = useLive((s) => s.demo)
  const places = useMemo(() => given ?? shopPlaces(demo), [given, demo])
  const router = useRouter()
  useKeepFocus()
  const link = useConnection()
  const [finding, setFinding] = useState(false)
  const [keys, setKeys] = useState(false)
  useKeys({
    ...Object.fromEntries(places.map((p) => [p.key.toLowerCase(), () => router.push(p.href)])),
    '[Shift]+/': () => setFinding(true),
    '[Shift]+?': () => setKeys(true),
    ...(back === null ? {} : { Escape: () => router.push(back) }),
    ...(nodeId === undefined ? {} : { '$mod+z': () => undo(nodeId), '$mod+Shift+z': () => redo(nodeId) }),
  })

  return (
    <div className="frame">
      <a className="skip" href="#work">
        Skip to the work
      </a>
      <ThreadPatterns />
      <TopBar crumbs={crumbs} onFind={() => setFinding(true)} onKeys={() => setKeys(true)} />
      <main id="work" className="middle" tabIndex={-1}>
        {link === 'lost' && (
          <div className="lost" role="alert">
            The server cannot be reached. What you see may be old; edits wait here and are saved when it answers again.
          </div>
        )}
        {children}
      </main>
      <nav className="strip" aria-label="places">
        {places.map((p) => (
          <Link
            key={p.href}
            href={p.href}
            className={p.name === here ? 'here' : ''}
            aria-current={p.name === here ? 'page' : undefined}
          >
            <span className="digit">{p.key}</span>
            {p.name}
            <Standing findings={p.standing} />
          </Link>
        ))}
        <span className="last">{last}</span>
      </nav>
      <Finder show={finding} onHide={() => setFinding(false)} />
      <KeysSheet show={keys} onHide={() => setKeys(false)} />
      <SaidLine />
    </div>
  )
}

/** How much stands at a place that somebody has to look at, with its gravest mark. */
function Standing({ findings }: { findings: readonly Finding[] }) {
  const grave = findings.filter((f) => f.severity !== 'note')
  if (grave.length === 0) return null
  const severity = grave.some((f) => f.severity === 'stop') ? 'stop' : 'fix'
  return (
    <span className={`standing ${severity}`} aria-label={countWords(grave)}>
      {grave.length}
    </span>
  )
}
