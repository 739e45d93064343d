import board32 from '../../../catalog/boards/board-32-30.json'
import board8266 from '../../../catalog/boards/board-8266-16.json'
import button from '../../../catalog/parts/button-ground.json'
import ranger from '../../../catalog/parts/ranger-echo.json'
import relayLow from '../../../catalog/parts/relay-module-low.json'
import thermometer from '../../../catalog/parts/thermometer-one-wire.json'
import { type Board, boardSchema } from './board'
import { type PartKind, partKindSchema } from './part'

/** Boards and part kinds by id. A design names both by id. */
export interface Catalog {
  boards: Readonly<Record<string, Board>>
  parts: Readonly<Record<string, PartKind>>
}

/** Without a prototype, so that a name such as “constructor” finds nothing. */
const byId = <T extends { id: string }>(items: T[]): Record<string, T> => Object.assign(Object.create(null) as Record<string, T>, Object.fromEntries(items.map((i) => [i.id, i])))

/** The catalogue that ships with the product. Every file passes the schema a user's file has to pass. */
export const builtInCatalog: Catalog = {
  boards: byId([board32, board8266].map((b) => boardSchema.parse(b))),
  parts: byId([ranger, relayLow, button, thermometer].map((p) => partKindSchema.parse(p))),
}
