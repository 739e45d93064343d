import type { Check, Line, LineVerdict } from '../core/proof/line'
import { promisesOf, type Thing } from '../core/proof/promises'
import type { BrokerLine } from './brokerLine'
import type { Deeds, ProveOptions } from './prove'
import type { Room } from './room'

/** What the broker and the way to us may add to one and a half times the keep-alive, s. */
const WAY_S = 3
const BACK_MS = 120_000
/** Whoever tells it as gone later than promised is still waited for, ms. */
const LATER_MS = 15_000

type Says = (check: Check, verdict: LineVerdict, words: string, ms?: number) => Line

function linesOf(thing: Thing): Says {
  const status = thing.promises.find((p) => p.what === 'status')
  return (check, verdict, words, ms) => ({
    thing: thing.title,
    topic: status?.topic ?? thing.at,
    name: 'availability',
    check,
    verdict,
    words,
    ...(ms === undefined ? {} : { ms }),
  })
}

/** Its link is cut without a goodbye: the broker tells it as gone in time. Then it is given back. */
export async function tryCut(room: Room, thing: Thing, deeds: Deeds): Promise<Line[]> {
  const says = linesOf(thing)
  const status = thing.promises.find((p) => p.what === 'status')
  if (thing.far) return [says('gone in time', 'not tried', 'It has no link: who hears it is tried instead.')]
  if (!deeds.cut) return [says('gone in time', 'not tried', 'Nobody cut its link.')]
  if (!status || thing.goneAfterS === null)
    return [says('gone in time', 'failed', 'Its description does not say what tells that it is gone.')]
  if (room.stopped) return [says('gone in time', 'not tried', 'Stopped before.')]
  const withinS = thing.goneAfterS + WAY_S
  let began = performance.now()
  const deed = { done: false }
  // A person needs a moment between the deed and saying so: the time runs from when it is known to be done.
  const gone = await room.next(
    ({ topic, text }) => topic === status.topic && text.includes('"offline"'),
    withinS * 1000 + LATER_MS,
    async () => {
      deed.done = (await deeds.cut?.(thing)) ?? false
      began = performance.now()
    },
  )
  if (!deed.done) return [says('gone in time', 'not tried', 'Its link was not cut.')]
  const tookS = gone === null ? Infinity : Math.max(0, gone.atS - began / 1000)
  await room.next(
    ({ topic, text }) => topic === status.topic && text.includes('"online"'),
    BACK_MS,
    () => deeds.restore?.(thing) ?? Promise.resolve(),
  )
  return [
    tookS <= withinS
      ? says('gone in time', 'passed', `Told as gone ${tookS.toFixed(1)} s after the cut, at most ${withinS} s.`)
      : says(
          'gone in time',
          'failed',
          Number.isFinite(tookS)
            ? `Told as gone only ${tookS.toFixed(1)} s after the cut; promised ${withinS} s.`
            : 'Never told as gone: it has left no last will, or another one.',
        ),
  ]
}

/** It is started anew: the same identity on the same topic, and nothing of it twice. */
export async function tryRestart(room: Room, line: BrokerLine, thing: Thing, o: ProveOptions): Promise<Line[]> {
  const says = linesOf(thing)
  const { restart } = o.deeds
  const status = thing.promises.find((p) => p.what === 'status')
  if (!restart || !status || room.stopped) return [says('same after restart', 'not tried', 'Nobody started it anew.')]
  const deed = { done: false }
  const back = await room.next(
    ({ topic, text }) => topic === status.topic && text.includes('"online"'),
    BACK_MS,
    async () => {
      deed.done = await restart(thing)
    },
  )
  if (!deed.done) return [says('same after restart', 'not tried', 'It was not started anew.')]
  if (back === null)
    return [says('same after restart', 'failed', `Not back within ${BACK_MS / 1000} s of its restart.`)]
  // It announces itself after it has said that it is there.
  await room.next(({ topic }) => topic === thing.at, 5000)
  const described = [...(await line.kept(o.root))].filter(([topic]) => topic.endsWith('/td'))
  const after = described.flatMap(([at, text]) => {
    const found = promisesOf(at, text)
    return 'reason' in found ? [] : [found]
  })
  const here = after.find((t) => t.at === thing.at)
  if (here?.id !== thing.id)
    return [says('same after restart', 'failed', `It was ${thing.id}, and is ${here?.id ?? 'announced nowhere'} now.`)]
  const twice = after.filter((t) => t.id === thing.id)
  return [
    twice.length > 1
      ? says(
          'same after restart',
          'failed',
          `Announced ${twice.length} times since: ${twice.map((t) => t.at).join(', ')}.`,
        )
      : says('same after restart', 'passed', 'The same identity, once.'),
  ]
}

/** Parts are taken away: what nobody can know any more is said as null, not left at its last value. */
export async function tryTakeAway(room: Room, thing: Thing, deeds: Deeds): Promise<Line[]> {
  const out: Line[] = []
  for (const promised of thing.promises) {
    if (promised.what !== 'reading' || !deeds.takeAway || room.stopped) continue
    const says = linesOf(thing)
    const withinS = 2 * Math.max(promised.everyS, thing.wakesS ?? 0) + WAY_S
    const deed = { done: false }
    const said = await room.next(
      ({ topic, text }) => topic === promised.topic && text.trim() === 'null',
      withinS * 1000,
      async () => {
        deed.done = (await deeds.takeAway?.(thing, promised)) ?? false
      },
    )
    if (!deed.done) continue
    out.push({
      ...(said
        ? says('null', 'passed', 'Its part was taken away, and it said null.')
        : says('null', 'failed', `Its part was taken away, and for ${withinS} s it did not say null.`)),
      topic: promised.topic,
      name: promised.title,
    })
  }
  return out
}
