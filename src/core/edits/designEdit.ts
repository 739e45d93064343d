import type { Catalog } from '../catalog/catalog'
import type { EditKind, KindSchema } from '../documents/editKind'
import type { Design } from '../model/design'

/** Says of an object that it is a kind of edit of a design; `kinds.ts` lists them all. */
export const designEdit = <S extends KindSchema>(kind: EditKind<Design, Catalog, S>) => kind
