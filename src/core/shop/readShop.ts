import { readDocument, type ReadResult } from '../documents/readDocument'
import { type Shop, shopSchema } from './shop'

/** A shop document from text: well-formed and of this format. */
export const readShop = (text: string): ReadResult<Shop> => readDocument(text, shopSchema)

/** A shop document as a file: what reading it and writing it again gives unchanged. */
export const shopText = (shop: Shop): string => `${JSON.stringify(shopSchema.parse(shop), null, 1)}\n`
