import type { Design } from '../model/design'

export const labelOf = (design: Design, partId: string): string => design.parts[partId]?.label ?? 'a part'
/** `12 V supply OUT` for a rail that begins at a part; a rail of the board as it is. */
export function railWords(design: Design, rail: string): string {
  const [partId = '', terminal = ''] = rail.split('.')
  const part = design.parts[partId]
  return part ? `${part.label} ${terminal.toUpperCase()}` : rail
}
export const tagOf = (design: Design, signalId: string): string => design.signals[signalId]?.tag ?? 'a signal'
