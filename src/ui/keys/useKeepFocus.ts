import { useEffect } from 'react'

/**
 * Where what had the focus is gone – a remedy that was taken, a row that was removed –, the focus stays in the place it
 * stood in, so that the next Tab goes on from there and not from the top of the page.
 */
export function useKeepFocus(): void {
  useEffect(() => {
    let path: HTMLElement[] = []
    const remember = ({ target }: FocusEvent) => {
      path = []
      for (let e = target instanceof HTMLElement ? target : null; e && e !== document.body; e = e.parentElement)
        path.push(e)
    }
    const look = () => {
      const [last] = path
      if (!last || last.isConnected || document.activeElement !== document.body) return
      const home = path.find((e) => e.isConnected)
      path = []
      if (!home) return
      if (!home.hasAttribute('tabindex')) home.tabIndex = -1
      home.focus({ preventScroll: true })
    }
    const watch = new MutationObserver(look)
    watch.observe(document.body, { childList: true, subtree: true })
    document.addEventListener('focusin', remember)
    return () => {
      watch.disconnect()
      document.removeEventListener('focusin', remember)
    }
  }, [])
}
