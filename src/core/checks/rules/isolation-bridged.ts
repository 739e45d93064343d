import { feeding } from '../remedies'
import { addedOn, type DesignPart } from '../../model/design'
import { bodiesOf } from '../../wiring/galvanic'
import { about, report, type Reported, type Rule, signalOfPart } from '../context'
import { carriedBy, isUnproven } from '../foreign'
import { couplersRemedy } from '../lineRemedies'

const BODY_SOURCE =
  'A walk over the finished list of wires: what is joined by conductors, components, boards and the insides of parts is one body.'

/** An isolation whose two sides meet somewhere in the finished list of wires. */
export const isolationBridged: Rule = {
  id: 'isolation-bridged',
  severity: 'stop',
  when: 'The finished list of wires joins the two sides of a coupler, or something of unproven isolation with the board’s ground or its USB socket.',
  source: BODY_SOURCE,
  check: (context) => {
    const { design, catalog, wiring, parts, lines } = context
    const bodies = bodiesOf(design, catalog, wiring)
    const inBoard = (id: string) => bodies.of(id) === bodies.of('board')
    const fedUnproven = (part: DesignPart) =>
      context.rails.some((r) => !r.isolated && Object.values(part.feeds).includes(r.id))
    const out: Reported[] = []
    for (const line of lines) {
      const coupler = addedOn(design, line.key, 'optocoupler')
      if (
        !coupler ||
        design.plan.pins[line.key] === undefined ||
        bodies.of(`inside:${coupler.id}.all`) !== bodies.of(`inside:${coupler.id}.seen`)
      )
        continue
      const graver = isUnproven(line.kind, line.part) || carriedBy(line) !== null || fedUnproven(line.part)
      const others = lines.filter((l) => l.partId === line.partId && !addedOn(design, l.key, 'optocoupler') && !l.bus)
      out.push(
        report(line.key, {
          severity: graver ? 'stop' : 'fix',
          ...about(design, line),
          sentence: `${coupler.value.names[0]} isolates nothing: both its sides meet in ${line.part.label}${others.length > 0 ? `, whose ${others.map((l) => l.terminal.label).join(', ')} still ${others.length > 1 ? 'go' : 'goes'} straight to the board` : ', which is fed from the board'}.`,
          remedies:
            others.length > 0 && others.every((l) => l.terminal.board === 'reads' && l.terminal.needs !== 'analog')
              ? couplersRemedy(
                  design,
                  others.map((l) => ({ line: l, range: carriedBy(l) ?? { minV: 3, maxV: 5.5 } })),
                )
              : [],
        }),
      )
    }
    for (const { id, part, kind } of parts) {
      const sensed = kind.terminals.filter(
        (t) => t.role === 'contact' && (t.does?.kind === 'senses' || t.does?.kind === 'switches'),
      )
      const joined = sensed.find((t) => inBoard(`part:${id}.${t.id}`))
      if (joined) {
        out.push(
          report(`${id}.${joined.id}`, {
            partId: id,
            signalId: signalOfPart(design, id),
            sentence: `${part.label} ${joined.label} is joined to the board: its isolated side must belong to the other circuit alone.`,
            remedies:
              part.feeds[joined.id] === undefined
                ? []
                : [feeding(`Take ${joined.label} off`, { partId: id, terminal: joined.id }, null)],
          }),
        )
      }
      const end = kind.terminals.find((t) => t.role === 'ground' || t.role === 'source' || t.role === 'line')
      const direct = lines.some((l) => l.members.some((m) => m.partId === id) && !addedOn(design, l.key, 'optocoupler'))
      if (!end || direct || !isUnproven(kind, part) || !kind.terminals.some((t) => inBoard(`part:${id}.${t.id}`)))
        continue
      out.push(
        report(id, {
          partId: id,
          signalId: signalOfPart(design, id),
          sentence: `${part.label} is not proven to be isolated from the mains, and the finished wiring joins it to this board’s ground and so to its USB socket.`,
          remedies: [],
        }),
      )
    }
    return out
  },
}
