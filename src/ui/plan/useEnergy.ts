import { useEffect, useState } from 'react'
import type { Design } from '../../core/model/design'
import type { EnergyReply, EnergyRequest } from '../../workers/energy.worker'
import { useLive } from '../live/store'

/** Draws and changes tried, worked out beside the page for every design anew; null until they are there. */
export function useEnergy(design: Design): EnergyReply | null {
  const catalog = useLive((s) => s.catalog)
  const [state, setState] = useState<{ of: Design; reply: EnergyReply | null } | null>(null)
  useEffect(() => {
    const w = new Worker(new URL('../../workers/energy.worker.ts', import.meta.url), { type: 'module' })
    w.onmessage = ({ data }: MessageEvent<EnergyReply | null>) => {
      setState({ of: design, reply: data })
      w.terminate()
    }
    w.postMessage({
      design,
      items: { boards: Object.values(catalog.boards), parts: Object.values(catalog.parts) },
    } satisfies EnergyRequest)
    return () => w.terminate()
  }, [design, catalog])
  return state?.of === design ? state.reply : null
}
