import { foreign } from '@/server/http/guard'
import packageFile from '../../../../package.json'

export const dynamic = 'force-dynamic'

/**
 * Readiness, versions and message counts. Answers while the product is still starting, and without a password: it tells
 * nothing of the shop.
 */
export function GET(request: Request): Response {
  const refused = foreign(request)
  if (refused) return refused
  const instance = globalThis.vividNode
  const ready = instance?.ready ?? null
  const storing = ready?.ingest.counts.storing ?? null
  const body = {
    ready: ready !== null,
    ...(instance?.failed ? { failed: instance.failed } : {}),
    versions: {
      product: packageFile.version,
      node: process.versions.node,
      database: packageFile.dependencies['@electric-sql/pglite'],
      broker: packageFile.dependencies.aedes,
    },
    messages: ready
      ? { received: ready.ingest.counts.received, refused: ready.ingest.counts.refused, odd: ready.ingest.counts.odd }
      : null,
    storing: storing && {
      storedAt: storing.storedAt,
      waiting: storing.waiting,
      setAside: storing.setAside,
      failing: storing.failing,
    },
  }
  return Response.json(body, { status: ready && !storing?.failing ? 200 : 503 })
}
