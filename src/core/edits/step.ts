import type { Design, DesignWire, Signal } from '../model/design'

/** A design after a step, or why not and what would be accepted. */
export type Step = Design | { refused: string; accepts: string }

export const refuse = (refused: string, accepts: string): Step => ({ refused, accepts })

export function withPart(design: Design, partId: string, then: (part: Design['parts'][string]) => Step): Step {
  const part = design.parts[partId]
  return part ? then(part) : refuse('this part is no longer in the design', 'a part that is')
}

export function withSignal(design: Design, signalId: string, then: (signal: Signal) => Step): Step {
  const signal = design.signals[signalId]
  return signal ? then(signal) : refuse('this signal is no longer in the design', 'a signal that is')
}

export function without<T>(items: Record<string, T>, id: string): Record<string, T> {
  const { [id]: _, ...rest } = items
  return rest
}

export const putSignal = (design: Design, id: string, signal: Signal): Design => ({
  ...design,
  signals: { ...design.signals, [id]: signal },
})

export const nextOrder = (items: Record<string, { order: number }>): number =>
  Math.max(-1, ...Object.values(items).map((i) => i.order)) + 1

export function withWire(design: Design, key: string, then: (wire: DesignWire) => DesignWire): Step {
  const wire = Object.hasOwn(design.wires, key) ? design.wires[key] : undefined
  return wire
    ? { ...design, wires: { ...design.wires, [key]: then(wire) } }
    : refuse('this wire is not in the design', 'a wire of the schedule')
}
