import type { EditKind, KindSchema } from '../documents/editKind'
import type { Shop } from './shop'

/** Says of an object that it is a kind of edit of the shop; `edits.ts` lists them all. */
export const shopEdit = <S extends KindSchema>(kind: EditKind<Shop, null, S>) => kind
