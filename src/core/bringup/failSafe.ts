import { traitsOf } from '../catalog/drivers'
import { inOrder, type Signal } from '../model/design'
import { channelOf } from '../publish/channelOf'
import { lateAfterS } from '../publish/staleness'
import { durationWords } from '../units/format'
import type { BringingUp } from './bringUpPlan'
import { saysOffAtStart } from '../catalog/startStates'
import { farPower } from './farThings'
import type { BringUpStep } from './step'

const AT_START: Readonly<Record<string, string>> = {
  off: 'it is off',
  on: 'it is on',
  last: 'it is as it was',
  follow: 'it is as its input is',
  opposite: 'it is as its input is not',
}

/** Stage 9: network pulled, sensors pulled, power cycled: outputs and values as the design states. */
export function failSafeSteps({ design, catalog }: BringingUp): BringUpStep[] {
  const one = { stage: 9 as const, caution: null }
  const steps: BringUpStep[] = [
    {
      ...one,
      key: 'gone',
      title: 'Network pulled',
      how: 'Switch the access point off, or carry the node out of its reach. It ticks itself when the pages call it gone.',
      why: 'Whoever looks has to learn that it is gone, and no sooner or later than stated.',
      expect: {
        kind: 'seen',
        what: `gone within ${durationWords(1.5 * design.network.keepAliveS + 2)}, and back by itself`,
      },
      causes: [
        {
          side: 'any',
          why: 'it stays online: another device holds its login',
          tells: 'The settings list connections by login.',
        },
      ],
      watch: { of: 'offline' },
      bench: null,
      signalId: null,
    },
  ]
  for (const { id, value: signal } of inOrder(design.signals)) {
    const channel = channelOf(design, catalog, signal)
    if (channel?.access === 'output') steps.push(...outputSafety(id, signal, traitsOf(channel.driver).far ?? false))
    if (channel?.access === 'reading' && signal.of === null)
      steps.push({
        ...one,
        key: `pulled:${id}`,
        title: `${signal.name}: its sensor pulled`,
        how: 'Supply off where the part does not stand it otherwise, one of its wires off, supply on. It ticks itself when the value is unknown.',
        why: 'A value that stays as it was is believed.',
        expect: { kind: 'seen', what: `unknown within ${durationWords(lateAfterS(signal.publish.intervalS))}` },
        causes: [
          {
            side: 'any',
            why: 'it shows a value all the same: the open input floats',
            tells: 'Touch the input: does the value jump? It wants a pull.',
          },
        ],
        watch: { of: 'unknown', signalId: id },
        bench: { path: '/tune', words: 'Say what is out of range on the Tune bench' },
        signalId: id,
      })
  }
  return steps
}

function outputSafety(id: string, signal: Signal, far: boolean): BringUpStep[] {
  const { longestOnS, pulseS, atStart } = signal.conditioning
  const farEndsS = saysOffAtStart(signal.conditioning) ? Math.min(...[longestOnS, pulseS].filter((s) => s > 0)) : 0
  const endsS = far ? farEndsS : longestOnS
  const base = {
    stage: 9 as const,
    watch: null,
    signalId: id,
    bench: { path: '/program', words: 'It should be otherwise: set it at Program, “What it does by itself”' },
  }
  const moves = {
    title: 'Its load may switch by itself',
    text: 'Disconnect the load, or keep clear of what it moves, heats or lets flow, before power comes back.',
  }
  return [
    {
      ...base,
      key: `power:${id}`,
      title: `${signal.name}: power off and on`,
      caution: moves,
      ...(far ? farPower(signal.conditioning) : ownPower(atStart)),
    },
    {
      ...base,
      key: `alone:${id}`,
      title: `${signal.name}: on, and the network pulled`,
      how: 'Switch it on, then take the network away and wait.',
      why: 'A command to switch off cannot arrive now.',
      expect: {
        kind: 'seen',
        what:
          endsS > 0
            ? `off by itself within ${durationWords(endsS)}`
            : 'on as it was: nothing ends it, which has to be meant',
      },
      causes: [
        {
          side: 'any',
          why: 'it stays on: no longest time is set',
          tells: 'Program shows it, under “What it does by itself”.',
        },
      ],
      caution: moves,
    },
  ]
}

/** What hangs on a pin goes with the supply. */
function ownPower(atStart: string): Pick<BringUpStep, 'how' | 'why' | 'expect' | 'causes'> {
  return {
    how: 'Switch it on, take the supply away for ten seconds, give it back.',
    why: 'After a power cut nobody is there.',
    expect: { kind: 'seen', what: `${AT_START[atStart] ?? 'it is off'}, without a blink before` },
    causes: [
      {
        side: 'any',
        why: 'it blinks at the start: the pin is not still before the program runs',
        tells: 'Watch it with the reset held: on already then, it is the pin, not the program.',
      },
    ],
  }
}
