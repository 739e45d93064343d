import { hueOf } from '../../core/palette/palette'

/** The sleeve that carries a thread's tag. Its colour helps; the tag is the identity. */
export function Ferrule({ signal, suffix = '' }: { signal: { hue: number; tag: string }; suffix?: string }) {
  return (
    <span className="ferrule" style={{ background: hueOf(signal) }}>
      {signal.tag}
      {suffix}
    </span>
  )
}

/** A sleeve on a wire that serves more than one signal: ink, with the name of its net. */
export function NetFerrule({ net }: { net: string }) {
  return <span className="ferrule ink">{net}</span>
}
