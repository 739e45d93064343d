import { z } from 'zod'
import { fileAccess, type Speaker, type TopicAccess, union } from '../../core/publish/access'
import { nodeFileSchema } from '../../core/nodefile/nodeFile'
import { channelOf } from '../../core/publish/channelOf'
import type { Design } from '../../core/model/design'
import type { Database } from '../db/database'
import { fileTextsOf } from '../db/revisionRows'
import type { Shelf } from '../shelf/shelf'
import type { Workshop } from './workshop'

/**
 * What each node may publish and hear: the union over its files in force, waiting and on trial. Wider before a file is
 * sent, narrower once a node has said which it runs.
 */
export class NodeAccess {
  private lists = new Map<string, TopicAccess>()

  private constructor(private readonly o: { db: Database; root: string; workshop: Workshop; shelf: Shelf }) {}

  static async load(o: NodeAccess['o']): Promise<NodeAccess> {
    const access = new NodeAccess(o)
    await Promise.all(o.workshop.all().map(({ id }) => access.refresh(id)))
    return access
  }

  of(id: string): TopicAccess {
    const known = this.lists.get(id)
    const node = this.o.workshop.get(id)
    if (known || !node) return known ?? { publish: [], hear: [] }
    return fileAccess(this.o.root, this.speakerOf(node.design))
  }

  /** Its files have changed, or which of them it runs. */
  async refresh(id: string): Promise<void> {
    const running = this.o.workshop.get(id)?.live.running?.revision
    const files = await fileTextsOf(this.o.db, id)
    // A file it runs and that is kept makes those before it past; where none is known, all of the last few count.
    const from = files.some((f) => f.revision === running) ? (running ?? 0) : 0
    const speakers = files
      .filter((f) => f.revision >= from)
      .map((f) => speakerSchema.safeParse(JSON.parse(f.file)))
      .flatMap((parsed) => (parsed.success ? [parsed.data] : []))
    if (speakers.length === 0) this.lists.delete(id)
    else this.lists.set(id, union(speakers.map((s) => fileAccess(this.o.root, s))))
  }

  private speakerOf(design: Design): Speaker {
    return {
      node: design.slug,
      signals: Object.values(design.signals).map((signal) => {
        const channel = channelOf(design, this.o.shelf.catalog, signal)
        return channel && 'medium' in channel ? { slug: signal.slug, medium: channel.medium } : { slug: signal.slug }
      }),
    }
  }
}

const speakerSchema = z
  .object({
    node: nodeFileSchema.shape.node,
    signals: z.array(z.object({ slug: z.string(), medium: z.string().optional(), driver: z.string() })),
    air: nodeFileSchema.shape.air,
  })
  .transform(({ node, signals, air }): Speaker => ({
    node,
    ...(air ? { senders: air.senders } : {}),
    signals: signals.map(({ slug, medium, driver }) =>
      driver === 'radio' ? { slug, medium: medium ?? 'subghz' } : { slug },
    ),
  }))
