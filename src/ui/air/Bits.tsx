const HEIGHTS: Record<string, number> = { '1': 1, f: 0.7 }

/** A code as blocks: low for 0, high for 1, half for the third state; `marked` bits stand out. The code itself is its name. */
export function Bits({ code, marked = [] }: { code: string; marked?: readonly number[] }) {
  const [step, tall] = [16, 26]
  const height = (bit: string) => tall * (HEIGHTS[bit] ?? 0.4)
  return (
    <svg
      className="bits"
      role="img"
      aria-label={code}
      viewBox={`0 0 ${code.length * step} ${tall}`}
      style={{ width: code.length * step, maxWidth: '100%' }}
    >
      {[...code].map((bit, i) => (
        <rect
          key={i}
          className={marked.includes(i) ? 'marked' : undefined}
          x={i * step}
          width={step - 2}
          y={tall - height(bit)}
          height={height(bit)}
          {...(bit === '.' ? { fillOpacity: 0.25 } : {})}
        />
      ))}
    </svg>
  )
}
