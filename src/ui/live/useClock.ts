'use client'
import { useEffect, useState } from 'react'

/** The time of day, ms, renewed every second; 0 until the page is alive, so that server and browser draw the same. */
export function useClock(): number {
  const [now, setNow] = useState(0)
  useEffect(() => {
    const tick = () => setNow(Date.now())
    const first = setTimeout(tick, 0)
    const timer = setInterval(tick, 1000)
    return () => {
      clearTimeout(first)
      clearInterval(timer)
    }
  }, [])
  return now
}
