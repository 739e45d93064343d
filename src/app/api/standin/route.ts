import { z } from 'zod'
import { slugSchema } from '@/core/model/design'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'
import { AIR, airDeedSchema, CABLE, cableDeedSchema, deedSchema } from '@/wire/deeds'

const body = z.union([
  z.strictObject({ controller: z.strictObject({ entity: z.string().max(200), value: z.json() }) }),
  z.strictObject({ board: slugSchema, deed: deedSchema }),
  z.strictObject({ cable: cableDeedSchema }),
  z.strictObject({ air: airDeedSchema }),
  z.strictObject({
    accessPoint: z.strictObject({ name: z.string().min(1).max(32), password: z.string().min(8).max(64) }),
  }),
])

/** What a person in the demo's workshop would do by hand. Refused outside the demo. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async (wish, product) => {
    const { guest } = product
    if (!guest) return problem(404, 'There are no stand-ins here: this is not the demo.')
    if ('accessPoint' in wish) {
      guest.setAir({ [wish.accessPoint.name]: wish.accessPoint.password })
      return Response.json({})
    }
    if ('cable' in wish) {
      await guest.ask(CABLE, wish.cable)
      return Response.json({})
    }
    if ('air' in wish) {
      await guest.ask(AIR, wish.air)
      return Response.json({})
    }
    if ('controller' in wish) {
      await guest.ask('controller', wish.controller)
      return Response.json({})
    }
    if ('run' in wish.deed) return problem(422, 'Code is not run from pages.')
    const id = product.workshop.bySlug(wish.board)?.id
    if (id === undefined) return problem(404, `There is no board “${wish.board}”.`)
    await guest.ask(id, wish.deed)
    return Response.json({})
  })
}
