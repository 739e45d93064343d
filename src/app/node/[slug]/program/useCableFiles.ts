import { useState } from 'react'
import { CableTrouble } from '@/cable/port'
import { heldIn } from '@/ui/findings/GoOn'
import type { Held, Past } from '@/wire/held'

/** A node's files for its board at the cable, always with passwords; what holds them up is kept until somebody goes on. */
export function useCableFiles(node: string) {
  const [held, setHeld] = useState<Held | null>(null)
  const [past, setPast] = useState<Past | undefined>()
  const make = async (standIn: boolean): Promise<Uint8Array> => {
    setHeld(null)
    const response = await fetch(`/api/nodes/${node}/bundle`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ passwords: true, standIn, past }),
    }).catch(() => null)
    if (!response) throw new CableTrouble('The server cannot be reached; no files were made.')
    if (response.ok) return new Uint8Array(await response.arrayBuffer())
    const told: unknown = await response.json().catch(() => null)
    const stops = response.status === 409 ? heldIn(told) : null
    setHeld(stops)
    throw new CableTrouble(
      stops
        ? 'Something stands against this design. Look at it below; whoever goes on all the same says so by name, and installs again.'
        : ((told as { error?: string } | null)?.error ?? `The files were not made (${response.status}).`),
    )
  }
  return {
    make,
    held,
    goOn: (by: Past) => {
      setPast(by)
      setHeld(null)
    },
    hide: () => setHeld(null),
  }
}
