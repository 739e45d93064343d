/** Hosts a page of ours may be asked under. Anything else is another site's name pointed at this machine. */
const LOOPBACK = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/

/** Why a request is turned away, or null. Host on every request; on writes also Origin, which a browser always sends. */
export function guard(request: Request): Response | null {
  const host = request.headers.get('host') ?? ''
  if (!LOOPBACK.test(host)) return problem(403, `This page answers on this machine only, not as “${host.slice(0, 80)}”.`)
  if (request.method === 'GET' || request.method === 'HEAD') return null
  const origin = request.headers.get('origin')
  if (origin !== null && origin !== `http://${host}`) return problem(403, `A page of ${origin.slice(0, 80)} may not change anything here.`)
  if (!request.headers.get('content-type')?.startsWith('application/json')) return problem(415, 'Send JSON (content-type application/json).')
  return null
}

export function problem(status: number, message: string, more: Record<string, unknown> = {}): Response {
  return Response.json({ error: message, ...more }, { status })
}
