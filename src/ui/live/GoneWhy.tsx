'use client'
import { Button } from 'react-bootstrap'
import { goneReasons } from '@/core/publish/gone'
import { silenceOf } from './nowWords'
import { type ClientNode, useLive } from './store'

interface GoneWhyProps {
  node: ClientNode
  now: number
  all?: boolean
  /** Opens everything that is known of it. */
  onWhy?: () => void
}

/** Why a node may be gone and what to look at next, in a line; with `all`, every reason that fits. */
export function GoneWhy({ node, now, all = false, onWhy }: GoneWhyProps) {
  const nodes = useLive((s) => s.nodes)
  const { link } = useLive((s) => s.broker)
  if (now === 0) return null
  const silence = (n: ClientNode) => silenceOf(n.live, n.design.network.ref)
  const others = Object.values(nodes).filter((n) => n.id !== node.id)
  const reasons = goneReasons(silence(node), others.map(silence), link, now / 1000)
  if (reasons.length === 0) return null
  const [first] = reasons
  if (!all) return <small data-why>{first?.words}</small>
  return (
    <div className="gone-why" role="status" data-why>
      <b>{node.design.name} is gone.</b> Likeliest first:
      <ol className="mb-0">
        {reasons.map((r) => (
          <li key={r.words}>
            {r.words} {r.next}
          </li>
        ))}
      </ol>
      {onWhy && (
        <Button variant="bare" onClick={onWhy}>
          <kbd>W</kbd>&ensp;what is known of every link
        </Button>
      )}
    </div>
  )
}
