'use client'
import { useEffect } from 'react'
import { connect } from './connect'
import { type Link, useLive } from './store'

let stopStream: (() => void) | null = null

/** Keeps this tab's line to the server for as long as it lives; says how it stands. */
export function useConnection(): Link {
  useEffect(() => {
    stopStream ??= connect()
  }, [])
  return useLive((s) => s.link)
}
