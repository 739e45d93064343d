'use client'
import { useEffect, useRef } from 'react'
import { tinykeys } from 'tinykeys'

/** By key or combination as tinykeys writes them: `n`, `[Shift]+?`, `$mod+z`. Letters count in either case. */
export type Keys = Record<string, () => void>

interface KeysOptions {
  /** Also while a button has the focus, which takes Enter and Space for itself otherwise. */
  onButtons?: boolean
  /** Not now. */
  off?: boolean
}

/** The element takes what is typed for itself. The one place that decides it. */
export function takesText(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLInputElement ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLElement && target.isContentEditable)
  )
}

const dialogStands = (): boolean => document.querySelector('.modal.show, .offcanvas.show') !== null

/**
 * Keys of a page or a part of it, while it is on screen: never while something is typed or a dialog stands before it,
 * and not where the page itself has taken the key.
 */
export function useKeys(keys: Keys, { onButtons = true, off = false }: KeysOptions = {}): void {
  const now = useRef(keys)
  useEffect(() => {
    now.current = keys
  })
  const names = Object.keys(keys).sort().join('\n')
  useEffect(() => {
    if (off || names === '') return
    // A dialog that closes at a key stood there when the key went down.
    let inDialog = false
    const look = () => {
      inDialog = dialogStands()
    }
    const ignore = ({ target, ctrlKey, metaKey, defaultPrevented }: KeyboardEvent): boolean =>
      inDialog ||
      defaultPrevented ||
      (takesText(target) && !(target instanceof HTMLSelectElement && (ctrlKey || metaKey))) ||
      (!onButtons && target instanceof HTMLButtonElement)
    const bindings = names.split('\n').map((name) => [
      name,
      (event: KeyboardEvent) => {
        event.preventDefault()
        now.current[name]?.()
      },
    ])
    window.addEventListener('keydown', look, true)
    const stop = tinykeys(window, Object.fromEntries(bindings), { ignore })
    return () => {
      window.removeEventListener('keydown', look, true)
      stop()
    }
  }, [names, onButtons, off])
}
