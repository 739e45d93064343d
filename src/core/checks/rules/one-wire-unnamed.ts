import { byOne } from '../remedies'
import { report, signalOfPart, type Rule } from '../context'

/** Several thermometers on one wire, and nobody knows which is which. */
export const oneWireUnnamed: Rule = {
  id: 'one-wire-unnamed',
  severity: 'fix',
  when: 'Two or more parts share a one-wire line, and one of them has no address in the design.',
  source: 'Part data sheet: with the command that skips addresses every part on the line answers at once.',
  check: ({ design, lines }) =>
    lines.flatMap((line) => {
      if (line.members.length < 2 || line.bus?.kind !== 'one-wire') return []
      return line.members
        .filter((m) => m.part.rom === null)
        .map((m) =>
          report(m.partId, {
            bench: 'parts',
            signalId: signalOfPart(design, m.partId),
            partId: m.partId,
            sentence:
              `${m.part.label} shares its line with ${line.members.length - 1} more and has no address yet: it stays unknown. ` +
              'Send the file, then search the wire on the Parts bench and warm one by hand to tell it from the others.',
            remedies: [
              byOne(`A line of its own for ${m.part.label}`, { kind: 'set-bus', partId: m.partId, bus: 'own' }),
            ],
          }),
        )
    }),
}
