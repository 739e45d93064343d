import { useEffect, useState } from 'react'
import type { Drawn } from '../../core/energy/draws'
import type { Design } from '../../core/model/design'
import type { EnergyRequest } from '../../workers/energy.worker'
import { useLive } from '../live/store'

/** Life by draws, worked out beside the page for every design anew; null until it is there. */
export function useDraws(design: Design): Drawn | null {
  const catalog = useLive((s) => s.catalog)
  const [state, setState] = useState<{ of: Design; drawn: Drawn | null } | null>(null)
  useEffect(() => {
    const w = new Worker(new URL('../../workers/energy.worker.ts', import.meta.url), { type: 'module' })
    w.onmessage = ({ data }: MessageEvent<Drawn | null>) => {
      setState({ of: design, drawn: data })
      w.terminate()
    }
    w.postMessage({
      design,
      items: { boards: Object.values(catalog.boards), parts: Object.values(catalog.parts) },
    } satisfies EnergyRequest)
    return () => w.terminate()
  }, [design, catalog])
  return state?.of === design ? state.drawn : null
}
