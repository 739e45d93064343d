import type { PartKind } from '../catalog/part'
import type { Design } from '../model/design'

/** What a part of this kind is called beside others: its name up to a comma or to what it is for. */
export const plainName = ({ name }: Pick<PartKind, 'name'>): string => {
  const [first = name] = name.split(/,| with | of | to | for /)
  return first
}

/** `Button`, `Button 2` …: the first that no part of the design has. */
export function freeLabel(plain: string, design: Design): string {
  const labels = Object.values(design.parts).map((p) => p.label)
  for (let n = 1; ; n++) {
    const label = n === 1 ? plain : `${plain} ${n}`
    if (!labels.includes(label)) return label
  }
}
