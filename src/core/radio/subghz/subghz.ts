import { z } from 'zod'
import { mediumOf } from '../medium'
import { bestReader } from './decode'
import { familyFigures } from './family'

/** Most pulses of one frame that a gateway passes on. */
const MOST_PULSES = 1000

/** On-off keyed codes below a gigahertz: lengths of pulses in µs, high first, and the gap after them. */
export const subghz = mediumOf({
  name: 'coded radio',
  frame: z.object({ us: z.array(z.number().min(0)).max(MOST_PULSES), gapUs: z.number().min(0) }),
  describe: ({ us }) => `of ${us.length} pulses`,
  decode: (frame, families) => {
    const read = bestReader(families.map(familyFigures), frame)
    return read?.code.includes('?') ? null : read
  },
})
