'use client'
import Link from 'next/link'
import { type ReactNode, useEffect, useMemo, useState } from 'react'
import { Button } from 'react-bootstrap'
import type { NodeView } from '@/ui/live/useNode'
import { useNode } from '@/ui/live/useNode'
import { useKeys } from '@/ui/keys/useKeys'
import { GoneWhy } from '@/ui/live/GoneWhy'
import { WhySilent } from '@/ui/live/WhySilent'
import { useLive } from '@/ui/live/store'
import { useClock } from '@/ui/live/useClock'
import { HistorySheet } from '@/ui/shell/HistorySheet'
import { Shell } from '@/ui/shell/Shell'
import { benchPlaces, type PlaceName } from '@/ui/shell/places'

interface BenchProps {
  name: PlaceName
  /** Head line facts, work and margin, once the node is known. */
  children: (view: NodeView) => ReactNode
}

/** One place of work on a node: shell, crumbs and the state of the node around what the bench itself shows. */
export function Bench({ name, children }: BenchProps) {
  const view = useNode()
  const now = useClock()
  const loaded = useLive((s) => s.loaded)
  const shop = useLive((s) => s.shop.name)
  const [history, setHistory] = useState(false)
  const [why, setWhy] = useState(false)
  useKeys({ w: () => setWhy(true) }, { off: !view })
  const title = view?.node.design.name
  useEffect(() => {
    if (title !== undefined) document.title = `${title} · ${name} · Vivid Node`
  }, [title, name])

  const slug = view?.node.design.slug
  const findings = view?.derived.findings
  const places = useMemo(() => benchPlaces(slug ?? '', findings), [slug, findings])

  if (!view) {
    return (
      <Shell crumbs={[{ name: shop, href: '/' }]} here={null} back="/">
        <div className="title">
          <h1>{loaded ? 'No such node' : '…'}</h1>
        </div>
        <div className="place wide">
          <div className="work">
            {loaded && (
              <p>
                There is no node of this name. <Link href="/">Back to the shop</Link>
              </p>
            )}
          </div>
        </div>
      </Shell>
    )
  }
  const { design } = view.node
  const last = view.node.edits.undo.at(-1)
  return (
    <Shell
      crumbs={[
        { name: shop, href: '/' },
        ...(view.around.place === null ? [] : [{ name: view.around.place }]),
        { name: design.name, href: `/node/${design.slug}` },
      ]}
      places={places}
      here={name}
      back={name === 'Loom' ? '/' : `/node/${design.slug}`}
      nodeId={view.node.id}
      last={
        <>
          <Button variant="bare" onClick={() => setWhy(true)}>
            <kbd>W</kbd>&ensp;why silent
          </Button>
          {last && <span>undo: “{last.words}”</span>}
          <Button variant="bare" onClick={() => setHistory(true)}>
            history
          </Button>
        </>
      }
    >
      <GoneWhy node={view.node} now={now} all onWhy={() => setWhy(true)} />
      {children(view)}
      <WhySilent view={view} now={now} show={why} onHide={() => setWhy(false)} />
      <HistorySheet nodeId={view.node.id} show={history} onHide={() => setHistory(false)} />
    </Shell>
  )
}
