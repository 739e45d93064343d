import { randomUUID } from 'node:crypto'
import type { Check, Line, LineVerdict } from '../core/proof/line'
import type { Promised, Thing } from '../core/proof/promises'
import type { BrokerLine } from './brokerLine'
import type { Deeds } from './prove'
import type { Room } from './room'

const ANSWER_MS = 6000
/** Something that would act has had the time to, ms. */
const ACTS_MS = 1500
/** A message that is so old is refused, s. */
const LATE_S = 600

interface Answer {
  result: string
  reason?: string
  ms: number
}
type Setting = NonNullable<Promised['set']>

/**
 * Commands of a thing: the right one is answered, a wrong and a late one are refused, a repeated id acts once and gets
 * the first answer. Without leave an output only gets the value it has, and only while it is off.
 */
export async function tryCommands(room: Room, line: BrokerLine, thing: Thing, deeds: Deeds): Promise<Line[]> {
  const out: Line[] = []
  for (const promised of thing.promises) {
    const { set } = promised
    if (!set || room.stopped) continue
    const says = (check: Check, verdict: LineVerdict, words: string, ms?: number): Line => ({
      thing: thing.title,
      topic: set.topic,
      name: promised.title,
      check,
      verdict,
      words,
      ...(ms === undefined ? {} : { ms }),
    })
    const why = whyNot(room, thing, deeds)
    if (why !== null) {
      for (const check of ['command', 'wrong command', 'late command', 'repeated id'] as const)
        out.push(says(check, 'not tried', why))
      continue
    }
    out.push(...(await tryOne({ room, line, promised, set, says }, thing, deeds)))
  }
  return out
}

/** Why a thing is sent no command; null where it is. */
function whyNot(room: Room, thing: Thing, deeds: Deeds): string | null {
  if (!deeds.commands) return 'This run only listens.'
  const status = thing.promises.find((p) => p.what === 'status')
  const said = status && room.last(status.topic)
  return said?.includes('"online"') ? null : 'It is not there to answer.'
}

interface Trial {
  room: Room
  line: BrokerLine
  promised: Promised
  set: Setting
  says: (check: Check, verdict: LineVerdict, words: string, ms?: number) => Line
}

async function tryOne(trial: Trial, thing: Thing, deeds: Deeds): Promise<Line[]> {
  const { promised, set, says } = trial
  if (set.answer === null) return [says('command', 'failed', 'Nothing says where it is answered.')]
  const out: Line[] = []
  const wrong = await send(trial, { value: { no: 'value' }, id: randomUUID() })
  out.push(refusal('wrong command', wrong, says))
  const now = valueOf(trial.room.last(promised.topic))
  const isOff = now === false || now === 0
  const value = now === undefined || now === null ? offOf(promised) : now
  const untilS = Math.floor(Date.now() / 1000) - LATE_S
  const may = (await deeds.mayAct?.(thing, promised)) ?? false
  if (!isOff && !may) {
    for (const check of ['command', 'late command', 'repeated id'] as const)
      out.push(says(check, 'not tried', 'It is not off, and nobody gave leave to act on it.'))
    return out
  }
  out.push(refusal('late command', await send(trial, { value, id: randomUUID(), until: untilS }), says))
  out.push(...(may ? await acted(trial, value) : await unmoved(trial, value)))
  return out
}

/** The value it has, twice with one id: it answers, and the second time as the first. */
async function unmoved(trial: Trial, value: unknown): Promise<Line[]> {
  const id = randomUUID()
  const first = await send(trial, { value, id })
  return [answered(first, trial.says), again(first, first && (await send(trial, { value, id })), trial.says)]
}

/** Another value and back, then the first id once more: it must not act again. */
async function acted(trial: Trial, value: unknown): Promise<Line[]> {
  const { room, promised, says } = trial
  const id = randomUUID()
  const other = otherOf(promised, value)
  const first = await send(trial, { value: other, id })
  const out = [answered(first, says)]
  if (first?.result !== 'done') return [...out, says('repeated id', 'not tried', 'The first was not done.')]
  await send(trial, { value, id: randomUUID() })
  let twice: Answer | null = null
  const moved = await room.next(
    ({ topic, text }) => topic === promised.topic && JSON.stringify(valueOf(text)) === JSON.stringify(other),
    ACTS_MS,
    async () => {
      twice = await send(trial, { value: other, id })
    },
  )
  if (moved !== null) {
    await send(trial, { value, id: randomUUID() })
    return [...out, says('repeated id', 'failed', 'The same id acted a second time.')]
  }
  return [...out, again(first, twice, says)]
}

function answered(answer: Answer | null, says: Trial['says']): Line {
  if (answer === null) return says('command', 'failed', `No answer within ${ANSWER_MS / 1000} s.`)
  return answer.result === 'done'
    ? says('command', 'passed', `Done after ${answer.ms} ms.`, answer.ms)
    : says('command', 'failed', `Answered “${answer.result}”${answer.reason ? `: ${answer.reason}` : ''}.`, answer.ms)
}

function refusal(check: Check, answer: Answer | null, says: Trial['says']): Line {
  if (answer === null) return says(check, 'failed', `No answer within ${ANSWER_MS / 1000} s.`)
  return answer.result === 'refused' && answer.reason
    ? says(check, 'passed', `Refused: ${answer.reason}.`, answer.ms)
    : says(check, 'failed', `Answered “${answer.result}” instead of refusing it with a reason.`, answer.ms)
}

function again(first: Answer | null, second: Answer | null, says: Trial['says']): Line {
  if (first === null) return says('repeated id', 'not tried', 'The first was not answered.')
  if (second === null) return says('repeated id', 'failed', 'The second one got no answer.')
  return second.result === first.result
    ? says('repeated id', 'passed', 'Acted on once; the second got the first answer.')
    : says('repeated id', 'failed', `Answered “${first.result}”, then “${second.result}”.`)
}

async function send({ room, line, set }: Trial, body: { value: unknown; id: string; until?: number }) {
  const began = performance.now()
  const answer = await room.next(
    ({ topic, text }) => topic === set.answer && text.includes(body.id),
    ANSWER_MS,
    () => line.publish(set.topic, JSON.stringify(body)),
  )
  if (answer === null) return null
  const said = valueOf(answer.text)
  if (typeof said !== 'object' || said === null || !('result' in said)) return null
  const reason = 'reason' in said && typeof said.reason === 'string' ? said.reason : undefined
  return { result: String(said.result), reason, ms: Math.round(performance.now() - began) }
}

function valueOf(text: string | undefined): unknown {
  try {
    return text === undefined ? undefined : JSON.parse(text)
  } catch {
    return undefined
  }
}

const offOf = ({ types, min }: Promised): unknown => (types.includes('boolean') ? false : (min ?? ''))

function otherOf({ types, max }: Promised, value: unknown): unknown {
  if (types.includes('boolean')) return value !== true
  if (types.includes('number')) return value === 0 ? (max ?? 1) : 0
  return `${typeof value === 'string' ? value.slice(0, 8) : ''}.`
}
