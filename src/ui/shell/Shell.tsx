'use client'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { type ReactNode, useEffect, useMemo, useState } from 'react'
import { redo, undo, useLive } from '../live/store'
import { useConnection } from '../live/useConnection'
import { ThreadPatterns } from '../thread/ThreadRun'
import { Finder } from './Finder'
import { KeysSheet } from './KeysSheet'
import { SaidLine } from './SaidLine'
import { TopBar } from './TopBar'
import { SHOP_PLACES, STANDINS_PLACE } from './places'

export interface Place {
  digit: string
  name: string
  href: string
}

interface ShellProps {
  crumbs: { name: string; href?: string }[]
  places: Place[]
  here: string
  /** Where Escape leads. */
  back: string | null
  nodeId?: string
  last?: ReactNode
  children: ReactNode
}

/** What every screen stands in: head line, the places at the bottom, keys, and the link to the server. */
export function Shell({ crumbs, places: always, here, back, nodeId, last, children }: ShellProps) {
  const demo = useLive((s) => s.demo)
  const places = useMemo(() => (demo && always === SHOP_PLACES ? [...always, STANDINS_PLACE] : always), [demo, always])
  const router = useRouter()
  const link = useConnection()
  const [finding, setFinding] = useState(false)
  const [keys, setKeys] = useState(false)

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (document.querySelector('.modal.show, .offcanvas.show')) return
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && nodeId !== undefined && !isText(e.target)) {
        e.preventDefault()
        if (e.shiftKey) redo(nodeId)
        else undo(nodeId)
        return
      }
      if (e.ctrlKey || e.metaKey || e.altKey || takesKeys(e.target)) return
      const place = places.find((p) => p.digit.toLowerCase() === e.key.toLowerCase())
      if (e.key === '/') setFinding(true)
      else if (e.key === '?') setKeys(true)
      else if (e.key === 'Escape' && back !== null) router.push(back)
      else if (place) router.push(place.href)
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [places, back, nodeId, router])

  return (
    <div className="frame">
      <a className="skip" href="#work">
        Skip to the work
      </a>
      <ThreadPatterns />
      <TopBar crumbs={crumbs} onFind={() => setFinding(true)} onKeys={() => setKeys(true)} />
      <main
        id="work"
        className="middle"
        tabIndex={-1}
        style={{ gridTemplateRows: link === 'lost' ? 'auto auto 1fr' : undefined }}
      >
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
            <span className="digit">{p.digit}</span>
            {p.name}
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

function isText(target: EventTarget | null): boolean {
  return target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement
}

/** Fields and lists keep the keys they need for themselves. */
function takesKeys(target: EventTarget | null): boolean {
  return (
    isText(target) || target instanceof HTMLSelectElement || (target instanceof HTMLElement && target.isContentEditable)
  )
}
