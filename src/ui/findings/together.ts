import type { Finding } from '../../core/checks/finding'
import type { Design } from '../../core/model/design'

type Together = [Finding, ...Finding[]]

/** Cautions that say the same stand once, for all parts they are about. */
export function together(findings: readonly Finding[]): Together[] {
  const out: Together[] = []
  for (const f of findings) {
    const same =
      f.caution && out.find(([g]) => g.caution?.title === f.caution?.title && g.caution?.text === f.caution?.text)
    if (same) same.push(f)
    else out.push([f])
  }
  return out
}

/** The parts findings are about, as they are called. */
export const partsOf = (design: Design, findings: readonly Finding[]): string =>
  [...new Set(findings.map((f) => design.parts[f.partId ?? '']?.label ?? 'a part'))].join(', ')

/** What is asked of a person for a caution that stands for several parts. */
export const aboutWords = (design: Design, findings: readonly Finding[]): string =>
  `${partsOf(design, findings)}: read the caution once for all of them and put your name to it.`
