import { type FarEnds, saysOffAtStart } from '../catalog/startStates'
import type { Signal } from '../model/design'
import type { BringUpStep } from './step'

/** Stage 8 for what is told by radio: nothing of it hangs on this board, and it never answers. */
export function farHandSteps(id: string, signal: Signal): BringUpStep[] {
  const presses = signal.conditioning.says?.off === null
  const base = {
    stage: 8 as const,
    signalId: id,
    watch: { of: 'commanded' as const, signalId: id },
    caution: {
      title: 'Clear of what it switches',
      text: 'It may miss the off, and from the board nobody sees that: somebody stands at the far thing and can cut its supply by hand.',
    },
  }
  return [
    {
      ...base,
      key: `dry:${id}`,
      title: `${signal.name}, the far thing beside the board`,
      how: 'Bring both within two or three metres. Where it learns codes, hold its button and say its code from the Air page. Then say on and off from the Loom.',
      why: 'Close by, only the code and the transmitter can be wrong.',
      expect: {
        kind: 'seen',
        what: `${presses ? 'once each time it is told' : 'on when told on, off when told off'}, and nothing else in reach moves`,
      },
      causes: [
        {
          side: 'any',
          why: 'it does not know this code',
          tells: 'Does it go by its own remote? Then let it learn, or take over the remote’s code.',
        },
        {
          side: 'any',
          why: 'the transmitter sends in another band or says nothing',
          tells: 'Listen on the Air page of a receiver: is the code heard there when it is said?',
        },
        {
          side: 'any',
          why: 'the transmitter has no supply',
          tells: 'Measure between its supply pins while it is told to say something.',
        },
      ],
      bench: null,
    },
    {
      ...base,
      key: `load:${id}`,
      title: `${signal.name}, from where both will be`,
      how: 'Put both in their places, doors closed as they will be. Say it twenty times, on and off by turns where it has both, with somebody counting at the far thing.',
      why: 'Nobody answers: how often it misses is only known by counting.',
      expect: {
        kind: 'seen',
        what: presses ? 'twenty of twenty' : 'twenty of twenty, and never on where off was said',
      },
      causes: [
        {
          side: 'any',
          why: 'out of reach: metal, a wall, the aerial folded or of a wrong length',
          tells: 'Say it from half the distance: does it miss fewer?',
        },
        {
          side: 'any',
          why: 'something else is on the air at the same time',
          tells: 'Listen at a receiver for a minute: how many others are heard?',
        },
        {
          side: 'any',
          why: 'the allowed time on the air is used up',
          tells: 'The answer to the command says so: wait as long as it tells.',
        },
      ],
      bench: null,
    },
  ]
}

/** What is elsewhere stays as it was told to be while the board is without supply. */
export function farPower(of: FarEnds): Pick<BringUpStep, 'how' | 'why' | 'expect' | 'causes'> {
  const cut = 'take the supply of the board away for ten seconds, give it back. The far thing keeps its own.'
  if (of.says?.off === null)
    return {
      how: `Without saying anything, ${cut}`,
      why: 'It acts at each saying: a start must not be one.',
      expect: { kind: 'seen', what: 'it does nothing' },
      causes: [
        {
          side: 'any',
          why: 'it acts at the start: the transmitter sends while its data line is not held',
          tells: 'Do it again with a resistor of 10 kΩ from the data line to ground: does it still act?',
        },
      ],
    }
  const ends = saysOffAtStart(of)
  return {
    how: `Switch it on, ${cut}`,
    why: 'A power cut at the board takes nothing back: it stays on until somebody says off.',
    expect: {
      kind: 'seen',
      what: ends
        ? 'it stays on without the board, and goes off when the board is back and says so'
        : 'it stays as it was, and the pages call its state unknown',
    },
    causes: [
      ends
        ? {
            side: 'any',
            why: 'it stays on: it did not hear the off at the start',
            tells: 'Say off by hand from the same place: if it stays on then too, it is out of reach.',
          }
        : {
            side: 'any',
            why: 'it goes off by itself: it hangs on the same supply as the board, or has a time of its own',
            tells: 'Say on and wait with the board running: does it go off as well?',
          },
    ],
  }
}
