import type { Channel } from '../catalog/part'
import { MODELS, type Model, type ModelName, type Nominal } from './models'

/** A thermistor's values as its part has them; null for anything else. */
export const nominalOf = (channel: Channel, settings: Readonly<Record<string, unknown>>): Nominal | null =>
  channel.access === 'reading' && channel.analog === 'thermistor'
    ? { ohm25: Number(settings.ohm25 ?? 10_000), betaK: Number(settings.betaK ?? 3950) }
    : null

/** Whether a model makes sense for what is measured: those by resistance only where there is a resistance. */
export const suits = (name: ModelName, nominal: Nominal | null): boolean => {
  const model: Model = MODELS[name]
  return nominal !== null || model.ofResistance !== true
}
