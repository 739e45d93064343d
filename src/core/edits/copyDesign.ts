import type { Design } from '../model/design'

/**
 * The same node once more, to be built from parts of its own: pins, wiring plan, conditioning and rules go along; what
 * belongs to one copy alone does not: wires that are made, calibrations, addresses of parts found on a wire, a fixed
 * address in the network.
 */
export function copyDesign(design: Design, { id, name, slug }: { id: string; name: string; slug: string }): Design {
  const { network } = design
  return {
    ...design,
    id,
    name,
    slug,
    parts: mapped(design.parts, (part) => ({ ...part, rom: null, found: null })),
    signals: mapped(design.signals, (signal) => ({ ...signal, calibration: null })),
    wires: mapped(design.wires, (wire) => ({ ...wire, made: false })),
    network: network.address === 'fixed' ? { ...network, address: 'lease', fixed: null } : network,
  }
}

const mapped = <T>(of: Record<string, T>, change: (value: T) => T): Record<string, T> =>
  Object.fromEntries(Object.entries(of).map(([key, value]) => [key, change(value)]))
