import { z } from 'zod'
import { parseObject } from '../core/publish/payload'
import type { ListedEntity, StandInBoard, Tape, Told } from '../wire/protocol'
import type { Message } from '../server/live/message'
import type { LiveStream } from '../server/live/stream'
import type { Workshop } from '../server/nodes/workshop'

const tapeSchema = z.object({ levelM: z.number(), airC: z.number(), pump: z.boolean() })
const boardSchema = z.object({
  active: z.array(z.string()),
  speed: z.number(),
  asleep: z.boolean(),
  longestStepMs: z.number(),
})
const toldSchema = z.object({ panel: z.array(z.string()), hub: z.array(z.string()) })
const entitySchema = z.object({
  id: z.string(),
  thing: z.string(),
  name: z.string(),
  area: z.string(),
  kind: z.string(),
  unit: z.string().nullable(),
  value: z.unknown(),
  at: z.string().nullable(),
  available: z.boolean(),
  command: z.string().nullable(),
})

export interface StandInMessagesOptions {
  workshop: Workshop
  stream: LiveStream
  odd: (topic: string, what: string) => void
}

/** What stand-ins say of themselves below `standin/`: the controller's list, the tank's tape, the state of boards. */
export class StandInMessages {
  entities: ListedEntity[] = []
  told: Told | null = null
  tapes: Record<string, Tape> = {}
  boards: Record<string, StandInBoard> = {}

  constructor(private readonly o: StandInMessagesOptions) {}

  take(message: Message): void {
    const text = message.payload.toString('utf8')
    if (message.topic === 'standin/controller/entities') {
      this.read(message.topic, z.array(z.unknown()).max(5000), text, (listed) => {
        const read = listed.map((e) => entitySchema.safeParse(e))
        const entities = read.flatMap((r) => (r.success ? [r.data] : []))
        // One that cannot be read hides none of the others.
        if (entities.length < listed.length) {
          const place = read.findIndex((r) => !r.success)
          const why = read[place]?.error?.issues[0]
          this.o.odd(
            message.topic,
            `entity ${place} of ${listed.length} cannot be read: ${why?.path.join(' › ') ?? ''} ${why?.message ?? ''}`,
          )
        }
        this.entities = entities
        this.o.stream.emit({ kind: 'entities', entities })
      })
      return
    }
    if (message.topic === 'standin/controller/told')
      return this.read(message.topic, toldSchema, text, (told) => {
        this.told = told
        this.o.stream.emit({ kind: 'told', told })
      })
    const [, id, leaf] = message.topic.split('/')
    const told = leaf === 'board' ? this.o.workshop.get(id ?? '') : undefined
    if (told) {
      return this.read(message.topic, boardSchema, text, (board) => {
        this.boards[told.id] = board
        this.o.stream.emit({ kind: 'board', node: told.id, board })
      })
    }
    const node = leaf === 'tape' ? this.o.workshop.get(id ?? '') : undefined
    if (!node) return
    this.read(message.topic, tapeSchema, text, (tape) => {
      this.tapes[node.id] = tape
      this.o.stream.emit({ kind: 'tape', node: node.id, tape })
    })
  }

  private read<T>(topic: string, schema: z.ZodType<T>, text: string, then: (value: T) => void): void {
    const parsed = parseObject(schema, text)
    if (parsed.ok) then(parsed.value)
    else this.o.odd(topic, parsed.reason)
  }
}
