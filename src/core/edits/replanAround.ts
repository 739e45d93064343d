import type { Design } from '../model/design'

/** Where nothing serves all lines any more: whoever was on the pin is left to be planned again, all others stay. */
export function replanAround(design: Design, line: string, pin: string): Design {
  const pins = Object.fromEntries(
    Object.entries(design.plan.pins).filter(([key, label]) => label !== pin || key === line),
  )
  return { ...design, plan: { ...design.plan, pins: { ...pins, [line]: pin } } }
}
