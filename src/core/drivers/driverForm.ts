import type { z } from 'zod'
import type { Channel } from '../catalog/part'
import type { DriverContext } from './driverContext'

export type DriverSchema = z.ZodObject<{ driver: z.ZodLiteral<string> }>

/** Fields of a signal that follow from its driver alone; what all of its access and its conditioning say is added. */
type Own<S extends DriverSchema> = Omit<z.infer<S>, 'driver' | Shared>
type Shared = 'slug' | 'access' | 'chain' | 'publish' | 'warmUpS' | Conditioned
type Conditioned = 'debounceMs' | 'holdS' | 'longestOnS' | 'pulseS' | 'atStart' | 'follows' | 'presses'

/** Modules that a chip class has of its own: for timing edges, and for saying pulses. */
export interface ChipModules {
  edges: string
  trains: string
}

/** What a driver is in the node file. */
export interface DriverForm<A extends Channel['access'] = Channel['access'], S extends DriverSchema = DriverSchema> {
  schema: S
  /** The form of this design's signal, or a sentence why it cannot be written; null: the runtime has none for it yet. */
  compile(context: DriverContext<Extract<Channel, { access: A }>>): Own<S> | string | null
  /** Modules below `vn/` it needs beside `drivers/NAME`, for a signal as it stands in the file. */
  needs?(signal: z.infer<S>, own: ChipModules): readonly string[]
  /** Modules of those that are on the board only when some signal needs them, though another module names them. */
  optional?: readonly string[]
}

/** Pins a signal of the file sits at; one that is made of another has none. */
export const pinsOfSignal = (signal: object): Record<string, number> =>
  'pins' in signal ? (signal.pins as Record<string, number>) : {}

/** Infers the schema, so that what `compile` returns is checked against it. */
export const formOf =
  <A extends Channel['access']>() =>
  <S extends DriverSchema>(form: DriverForm<A, S>) =>
    form
