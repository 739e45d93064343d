'use client'
import dynamic from 'next/dynamic'

/**
 * The shop has nothing to show before it is heard from: it is made in the browser alone, so that a start need not load
 * it into the server as well.
 */
export const ShopInBrowser = dynamic(() => import('./Shop').then((m) => m.Shop), { ssr: false, loading: Opening })

function Opening() {
  return (
    <div className="frame">
      <header className="topbar">
        <span className="brand">Vivid Node</span>
        <span className="gap" />
        <span className="fact">connecting …</span>
      </header>
      <main className="middle" aria-busy="true" />
    </div>
  )
}
