'use client'
import { useState } from 'react'
import { Button } from 'react-bootstrap'
import { useLive } from '@/ui/live/store'
import { Shell } from '@/ui/shell/Shell'
import { NewNode } from '../NewNode'
import { WishWork } from './WishWork'

/** A new node from a wish, or from a board alone. */
export function Begin() {
  const shop = useLive((s) => s.shop.name)
  const [bare, setBare] = useState(false)
  return (
    <Shell crumbs={[{ name: shop, href: '/' }, { name: 'a new node' }]} here={null} back="/">
      <div className="title">
        <h1>A new node</h1>
        <Button variant="bare" className="ms-auto" onClick={() => setBare(true)}>
          begin with a board alone
        </Button>
      </div>
      <WishWork />
      <NewNode show={bare} onHide={() => setBare(false)} />
    </Shell>
  )
}
