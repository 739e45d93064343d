import { byOne, feeding, replacing } from '../remedies'
import { couplerOhm, COUPLER, couplerState, STRONGEST_PULL } from '../../calculations/couplerCalculation'
import { meansOf } from '../../catalog/part'
import { addedOn } from '../../model/design'
import type { PlanLine } from '../../lines/lines'
import { nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { about, feedable, report, type Rule } from '../context'
import { carriedBy } from '../foreign'
import { couplerRemedy, couplersRemedy } from '../lineRemedies'

/** A contact with a voltage of its own where a bare one is meant. */
export const wetContact: Rule = {
  id: 'wet-contact',
  severity: 'stop',
  when: 'A contact that carries a voltage of its own is wired to an input for a bare one.',
  source: 'A pin stands no more than its supply plus 0.3 V; a foreign voltage also brings its own ground along.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const range = meansOf(line.kind, line.part.settings).carries
      if (!range || addedOn(context.design, line.key, 'optocoupler')) return []
      return [
        report(line.key, {
          ...about(context.design, line),
          sentence: `${line.part.label} carries ${range.ac ? `up to ${volts(range.maxV / Math.SQRT2)} AC` : `${volts(range.minV)} to ${volts(range.maxV)}`}; the input is for a bare contact.`,
          remedies: couplerRemedy(context.design, line, range),
        }),
      ]
    }),
}

/** Currents of a coupler's input over the whole range of what feeds it. */
export const couplerInput: Rule = {
  id: 'coupler-input',
  severity: 'fix',
  when: 'An optocoupler gets too little or too much current over the range of its voltage, or too little to pull its pin low.',
  source:
    'Coupler data sheets: 1.2 V across the lamp, 20 mA at most, transfer of 50 % halved for age and small currents.',
  check: (context) =>
    context.lines.flatMap((line) => {
      const { board, design } = context
      const coupler = addedOn(design, line.key, 'optocoupler')
      const range = carriedBy(line)
      if (!coupler || !range) return []
      const pullOhm =
        line.pulls.length > 0 ? Math.min(...line.pulls.map((p) => p.ohm)) : board.pulls.upOhm * STRONGEST_PULL
      const s = couplerState({
        ...range,
        seriesOhm: coupler.value.seriesOhm,
        tolerance: coupler.value.tolerance,
        supplyV: board.supplyV.max,
        pullOhm,
      })
      const weak =
        s.gives < s.neededA
          ? `it surely pulls ${engineering(s.gives, 'A')}, and the pull-up gives ${engineering(s.neededA, 'A')}`
          : null
      const little =
        s.leastA < COUPLER.transferFromA
          ? `only ${engineering(s.leastA, 'A')} flow at the lowest voltage; it needs ${engineering(COUPLER.transferFromA, 'A')}`
          : weak
      const trouble =
        s.mostA > COUPLER.mostA
          ? `up to ${engineering(s.mostA, 'A')} flow through its lamp, which stands ${engineering(COUPLER.mostA, 'A')}`
          : little
      const better = nearestIn('E24', couplerOhm(range.minV, range.maxV), 'down')
      const ac = range.ac
        ? [
            report(`${line.key}:ac`, {
              severity: 'note',
              ...about(design, line),
              sentence: `${line.part.label} alternates: its coupler blinks a hundred times a second. Let the node hold the state for 50 ms.`,
              source: 'Mains frequency, both half-waves or one.',
            }),
          ]
        : []
      if (trouble === null) return ac
      return [
        ...ac,
        report(line.key, {
          ...about(design, line),
          sentence: `${coupler.value.names[0]} of ${line.part.label}: ${trouble}.`,
          steps: [
            {
              gives: 'least and most current',
              formula: 'I = (V − V_F) / (R·(1±t))',
              numbers: `${volts(range.minV)} … ${volts(range.maxV)}, ${ohms(coupler.value.seriesOhm)}`,
              result: `${engineering(s.leastA, 'A')} … ${engineering(s.mostA, 'A')}`,
            },
            {
              gives: 'needed against given',
              formula: 'V_DD / R_pull ≤ ½ · CTR · I_F',
              numbers: `${volts(board.supplyV.max)} / ${ohms(pullOhm)}`,
              result: `${engineering(s.neededA, 'A')} ≤ ${engineering(s.gives, 'A')}`,
            },
          ],
          remedies:
            better === coupler.value.seriesOhm
              ? []
              : [
                  replacing(`Change ${coupler.value.names[1]} to ${ohms(better)}`, coupler.id, coupler.id, {
                    ...coupler.value,
                    seriesOhm: better,
                  }),
                ],
          calculation: {
            id: 'coupler',
            target: { line: line.key },
            given: {
              ...{ minV: range.minV, maxV: range.maxV },
              supplyV: board.supplyV.max,
              pullOhm,
              tolerance: coupler.value.tolerance,
              value: coupler.value.seriesOhm,
            },
          },
        }),
      ]
    }),
}

/** A signal shared with something whose ground must never be joined. */
export const noCommonGround: Rule = {
  id: 'no-common-ground',
  severity: 'stop',
  when: 'A line comes from something that is not isolated from the mains, or whose isolation is not proven.',
  source: 'Isolation is a property of the certified part: a low voltage measured at a point does not prove it.',
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) => {
      const { design } = context
      const own = kind.terminals.some((t) => t.role === 'source' && !t.isolated)
      const fed = kind.terminals.some(
        (t) =>
          t.role === 'supply' &&
          context.rails.some((r) => r.partId !== null && !r.isolated && r.id === part.feeds[t.id]),
      )
      if (!own && !fed) return []
      const source =
        'Isolation is a property of the certified part: a low voltage measured at a point does not prove it.'
      const sentence = `${part.label} is not proven to be isolated from the mains: never join its ground to this board. Across an isolating coupler only, unplugged and discharged while it is open.`
      const direct = context.lines.filter(
        (l) => l.members.some((m) => m.partId === id) && !addedOn(design, l.key, 'optocoupler'),
      )
      const rangeOf = (line: PlanLine) =>
        line.terminal.output?.kind === 'fixed'
          ? { minV: line.terminal.output.highMinV, maxV: line.terminal.output.highMaxV }
          : { minV: 3, maxV: 5.5 }
      // One line that stays joined undoes the couplers of all others, so they come together.
      const remedies = direct.some((l) => l.bus || l.terminal.board === 'drives' || l.terminal.needs === 'analog')
        ? []
        : couplersRemedy(
            design,
            direct.map((line) => ({ line, range: rangeOf(line) })),
          )
      const joined = direct.map((line) => report(line.key, { ...about(design, line), sentence, source, remedies }))
      const feedsUs = own && (design.boardFeed?.startsWith(`${id}.`) ?? false)
      return !feedsUs
        ? joined
        : [
            ...joined,
            report(id, {
              partId: id,
              sentence,
              source,
              remedies: [byOne('Feed the board by USB', { kind: 'feed-board', rail: null })],
            }),
          ]
    }),
}

/** Alternating current where direct is meant. */
export const acForDc: Rule = {
  id: 'ac-for-dc',
  severity: 'stop',
  when: 'A part that takes direct current is fed from an alternating supply.',
  source: 'Kind of the supply; peak 1.41 times its stated voltage.',
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        const rail = t.role === 'supply' ? context.rails.find((r) => r.id === part.feeds[t.id]) : undefined
        if (!rail?.ac || t.role !== 'supply' || t.ac) return []
        const other = feedable(context, id, t)[0]
        return [
          report(`${id}.${t.id}`, {
            partId: id,
            sentence: `${part.label} takes direct current; ${rail.name} alternates and peaks at ${volts(rail.max * Math.SQRT2)}. A rectifier and a regulator first, or another supply.`,
            remedies: other
              ? [feeding(`Feed ${t.label} from ${other.name}`, { partId: id, terminal: t.id }, other.id)]
              : [],
          }),
        ]
      }),
    ),
}
