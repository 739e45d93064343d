import type { Catalog } from '../../core/catalog/catalog'
import type { Finding } from '../../core/checks/finding'
import { standingAgainst, stopSentences } from '../../core/checks/standing'
import type { Design } from '../../core/model/design'
import type { Surroundings } from '../../core/surroundings/surroundings'
import type { Held, Past } from '../../wire/held'
import type { Database } from '../db/database'
import { log } from '../db/logbookRows'
import type { Derived } from '../derived/derived'
import type { Workshop } from './workshop'

export interface GateOptions {
  db: Database
  workshop: Workshop
  derived: Derived
  catalog: () => Catalog
  around: (design: Design) => Surroundings
}

/** What stands against a design holds up what is about to reach its board, until a person goes on by name. */
export class Gate {
  constructor(private readonly o: GateOptions) {}

  /** The stops `past` does not name; null when there are none. With `strict`, cautions that can hurt stay in any case. */
  async holds(id: string, past: Past | undefined, strict = false): Promise<Held | null> {
    const { stops, barred } = await this.standing(id)
    const named = new Set(past?.of)
    const unnamed = stops.filter((f) => !named.has(f.key))
    if (unnamed.length === 0 && (!strict || barred.length === 0)) return null
    return {
      stops: stops.map(asHeld),
      barred: strict ? barred.map((f) => f.key) : [],
    }
  }

  /** The stops that did not stand against what it runs already: what is there is not made worse by being sent again. */
  async newStops(id: string, runs: { design: Design; around: Surroundings } | null): Promise<Held['stops']> {
    const { stops } = await this.standing(id)
    const then = runs ? await this.standing(id, runs) : { stops: [] }
    const known = new Set(then.stops.map((f) => f.key))
    return stops.filter((f) => !known.has(f.key)).map(asHeld)
  }

  /** The logbook keeps who went on past what; gives the sentences. */
  async wentOn(id: string, what: string, past: Past): Promise<string[]> {
    const { stops } = await this.standing(id)
    const sentences = stopSentences(stops)
    if (sentences.length > 0) await log(this.o.db, id, past.by, `${what} past: ${sentences.join(' ')}`.slice(0, 4000))
    return sentences
  }

  /** Cautions of a node that nobody has put a name to, in words: nothing there is made to act. */
  async barred(id: string): Promise<string[]> {
    const { barred } = await this.standing(id)
    return barred.map((f) => f.caution?.title ?? f.sentence)
  }

  private async standing(id: string, of?: { design: Design; around: Surroundings }) {
    const node = this.o.workshop.get(id)
    if (!node) return { stops: [], barred: [] }
    const { design, around } = of ?? { design: node.design, around: this.o.around(node.design) }
    const findings = await this.o.derived.work('checks', design, around)
    return standingAgainst(design, this.o.catalog(), findings, new Set(node.live.acknowledged))
  }
}

function asHeld({ key, sentence, bench }: Finding): Held['stops'][number] {
  return { key, sentence, bench }
}

/** What an answer says first; the stops themselves go along with it. */
export function heldWords({ stops, barred }: Held, doing: string): string {
  const n = stops.length === 1 ? 'One stop stands' : `${stops.length} stops stand`
  const sign =
    barred.length === 0
      ? 'Whoever goes on does so by name.'
      : 'Mains and what moves or floods first want a name under each caution, on the Parts bench.'
  return `${n} against ${doing} it. ${sign}`
}
