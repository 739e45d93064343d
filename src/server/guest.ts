import type { Design } from '../core/model/design'
import type { Shop } from '../core/shop/shop'
import type { CableState } from '../wire/deeds'
import type { ListedEntity, StandInBoard, Tape, Told } from '../wire/protocol'
import type { Message } from './live/message'
import type { Product } from './product'

/** Lives beside the product in its process and speaks below `standin/`. The demo is one; a shop of its own has none. */
export interface Guest {
  /** What it has said of itself, for the pages. */
  readonly entities: ListedEntity[]
  /** What its two controllers have been told in forms of their own. */
  readonly told: Told | null
  readonly tapes: Record<string, Tape>
  readonly boards: Record<string, StandInBoard>
  /** Its board at a cable, while one is plugged in; its port is this machine’s alone. */
  readonly cable: CableState | null
  /** What that board takes for an interpreter. */
  cableImage(): Uint8Array | null
  /** Before the broker starts: what has to be there. */
  prepare(): Promise<void>
  take(message: Message): void
  /** True when the board of this node is a simulated one and keeps its own login. */
  holdsBoard(node: string): boolean
  /** Writes what the simulated board of this design starts from: files, login and key. */
  flash(design: Design): Promise<void>
  /** Asks one of its own to do something. */
  ask(whom: string, what: unknown): Promise<void>
  /** From now on its access point lets in these network names with these passwords. */
  setAir(air: Record<string, string>): void
}

export interface GuestPlan {
  /** The shop document a new data folder begins with. */
  firstShop: Shop
  join(product: Product): Guest
}
