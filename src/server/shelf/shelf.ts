import { builtInCatalog, type Catalog, type CatalogItems, isBuiltIn, withItems } from '../../core/catalog/catalog'
import { itemClash } from '../../core/catalog/itemFile'
import type { Database } from '../db/database'
import type { Statement } from '../db/protocol'
import { allShelfItems, shelfStatements } from '../db/shelfRows'

/** The catalogue of this shop: what ships with the product and what the user has brought in. */
export class Shelf {
  private constructor(
    private readonly db: Database,
    private own: CatalogItems,
    private all: Catalog,
  ) {}

  static async load(db: Database): Promise<Shelf> {
    const own = await allShelfItems(db)
    return new Shelf(db, own, withItems(builtInCatalog, own))
  }

  get catalog(): Catalog {
    return this.all
  }

  get items(): CatalogItems {
    return this.own
  }

  /**
   * Puts items on the shelf, all or none; the reason when one of them may not be. What else is to be written with them
   * goes along.
   */
  async add(items: CatalogItems, also: readonly Statement[] = []): Promise<string | null> {
    const clash = this.clash(items)
    if (clash) return clash
    const fresh = {
      boards: items.boards.filter((b) => !isBuiltIn('boards', b.id)),
      parts: items.parts.filter((p) => !isBuiltIn('parts', p.id)),
    }
    await this.db.transaction([...shelfStatements(fresh), ...also])
    const kept = <T extends { id: string }>(before: readonly T[], after: readonly T[]) => [
      ...before.filter((b) => !after.some((a) => a.id === b.id)),
      ...after,
    ]
    this.own = { boards: kept(this.own.boards, fresh.boards), parts: kept(this.own.parts, fresh.parts) }
    this.all = withItems(builtInCatalog, this.own)
    return null
  }

  private clash(items: CatalogItems): string | null {
    const clashes = [
      ...items.boards.map((value) => itemClash(this.all, { kind: 'boards', value })),
      ...items.parts.map((value) => itemClash(this.all, { kind: 'parts', value })),
    ]
    return clashes.find((c) => c !== null) ?? null
  }
}
