import { supplyMeasured } from './supplyMeasured'
import { z } from 'zod'
import type { DriverName } from '../catalog/drivers'
import type { DriverContext } from './driverContext'
import type { DriverForm } from './driverForm'
import { events } from './events'
import { outputs } from './outputs'
import { readings } from './readings'
import { states } from './states'

/** Every driver's form by its name; a name without one does not compile. */
export const FORMS = { ...readings, ...states, ...outputs, ...events } as const satisfies Record<DriverName, object>

type Forms = typeof FORMS
type Schemas = { [N in DriverName]: Forms[N]['schema'] }[DriverName]

const forms: Record<DriverName, DriverForm> = FORMS
export const formFor = (name: DriverName): DriverForm => forms[name]

/** A signal of the node file: what it is made of depends on its driver. */
export const signalSchema = z.discriminatedUnion(
  'driver',
  // The values of the table are the options; that it has some is not in the type of a list.
  Object.values(FORMS).map((f) => f.schema) as unknown as [Schemas, ...Schemas[]],
)
export type NodeFileSignal = z.infer<Schemas>

/** The driver a signal has in the file: that of its channel, of the converter its part is measured at, or of a ratio. */
export function driverOf(context: DriverContext): DriverName {
  const { driver } = context.channel
  if (driver !== 'adc') return driver
  if (context.hosted() !== null) return 'converter'
  return supplyMeasured(context) === null ? driver : 'ratio'
}
