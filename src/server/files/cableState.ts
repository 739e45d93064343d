import fs from 'node:fs'
import path from 'node:path'
import { CABLE_FOLDER, type CableState, cableStateSchema } from '../../wire/deeds'

/** The simulated board at a cable of this data folder; null while none is plugged in. */
export function cableIn(dataFolder: string): CableState | null {
  try {
    const text = fs.readFileSync(path.join(/* turbopackIgnore: true */ dataFolder, CABLE_FOLDER, 'state.json'), 'utf8')
    const state = cableStateSchema.parse(JSON.parse(text))
    return state.port > 0 ? state : null
  } catch {
    return null
  }
}
