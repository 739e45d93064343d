import { report, type Rule, signalOfPart } from '../context'
import { foreignEnd } from '../foreign'
import type { Remedy } from '../finding'

/** The other circuit an isolated output plays a contact for. */
export const playedContact: Rule = {
  id: 'played-contact',
  severity: 'fix',
  when: 'A coupler’s output plays a contact for another device, and its poles, its dark current or its rest voltage do not suit that, or the device is fed twice.',
  source:
    'Coupler data sheet: collector to plus, emitter to minus; dark current when warm times the device’s pull, and what is left across it when closed, against a third of its open voltage.',
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) => {
      const { design, catalog } = context
      const ends = kind.terminals.flatMap((t) =>
        t.role === 'contact' && t.does?.kind === 'switches' ? [{ t, does: t.does }] : [],
      )
      const plus = ends.find((e) => e.does.pole === 'plus')
      const minus = ends.find((e) => e.does.pole === 'minus')
      if (!plus || !minus) return []
      const [at, back] = [part.feeds[plus.t.id], part.feeds[minus.t.id]]
      const [to, ret] = [foreignEnd(design, catalog, at), foreignEnd(design, catalog, back)]
      const say = (key: string, severity: 'stop' | 'fix', sentence: string, remedies: Remedy[] = []) =>
        report(`${id}:${key}`, {
          severity,
          bench: 'wires',
          partId: id,
          signalId: signalOfPart(design, id),
          sentence,
          remedies,
        })
      if (!to || !ret) return []
      const swapped =
        catalog.parts[design.parts[to.partId]?.kind ?? '']?.terminals.findIndex((t) => t.id === to.terminal) ?? 0
      const first =
        catalog.parts[design.parts[ret.partId]?.kind ?? '']?.terminals.findIndex((t) => t.id === ret.terminal) ?? 0
      const pullOhm = to.openV / Math.max(to.closedA, 1e-12)
      const found = []
      if (to.ac)
        found.push(
          say(
            'ac',
            'stop',
            `${part.label} plays a contact on alternating current: a transistor conducts one way only. A relay does it.`,
          ),
        )
      if (to.openV > plus.does.maxV)
        found.push(
          say('volts', 'stop', `${to.label} has ${to.openV} V open; ${part.label} stands ${plus.does.maxV} V.`),
        )
      if (to.closedA > plus.does.maxA)
        found.push(
          say(
            'amps',
            'fix',
            `${to.label} sends ${(to.closedA * 1000).toFixed(1)} mA through a closed contact; ${part.label} surely carries ${(plus.does.maxA * 1000).toFixed(1)} mA.`,
          ),
        )
      if (swapped > first)
        found.push(
          say(
            'poles',
            'stop',
            `${part.label} is the wrong way round at ${to.label}: its collector belongs to the plus of the two, the terminal with the open voltage.`,
            [
              {
                label: 'Turn it round',
                edits: [
                  { kind: 'feed', partId: id, terminal: plus.t.id, rail: back ?? '' },
                  { kind: 'feed', partId: id, terminal: minus.t.id, rail: at ?? '' },
                ],
              },
            ],
          ),
        )
      const darkV = plus.does.darkA * pullOhm
      if (darkV > to.openV / 3 + 1e-9)
        found.push(
          say(
            'dark',
            'fix',
            `${part.label} lets ${(plus.does.darkA * 1e6).toFixed(1)} µA through when dark and warm: over ${to.label}’s ${(pullOhm / 1e6).toFixed(1)} MΩ that is ${darkV.toFixed(2)} V of ${to.openV} V, and it may look closed. A relay or a reed contact does it.`,
          ),
        )
      if (plus.does.lowMaxV > to.openV / 3)
        found.push(
          say(
            'rest',
            'fix',
            `${part.label} leaves ${plus.does.lowMaxV} V when closed; ${to.label} takes less than ${(to.openV / 3).toFixed(2)} V for closed.`,
          ),
        )
      return found
    }),
}
