import type { ReactNode } from 'react'

/** A fact of the head line: its name small, its value below. */
export function Fact({ name, value, children }: { name: string; value: string; children?: ReactNode }) {
  return (
    <div className="fact">
      {name}
      <strong>
        {value}
        {children}
      </strong>
    </div>
  )
}
