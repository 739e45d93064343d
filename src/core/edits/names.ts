import type { Design } from '../model/design'

export const labelOf = (design: Design, partId: string): string => design.parts[partId]?.label ?? 'a part'
export const tagOf = (design: Design, signalId: string): string => design.signals[signalId]?.tag ?? 'a signal'
