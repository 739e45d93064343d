import { mayEnter, sessionOf } from './session'

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]']

/** Names the machine is reached under from outside, as its user states them. */
export function outsideNames(): string[] {
  return (process.env.VIVID_NAMES ?? '')
    .split(',')
    .map((n) => n.trim().toLowerCase())
    .filter(Boolean)
}

/** Names a page of ours may be asked under. Anything else is another site's name pointed at this machine. */
function ownNames(): string[] {
  return [...LOOPBACK, ...outsideNames()]
}

/**
 * Why a request is turned away, or null. Host and session on every request; on writes also Origin, which a browser
 * always sends, and the kind of content.
 */
export function guard(
  request: Request,
  content: 'application/json' | 'application/gzip' = 'application/json',
): Response | null {
  const elsewhere = foreign(request)
  if (elsewhere) return elsewhere
  if (!mayEnter(sessionOf(request))) return problem(401, 'The shop is locked. Open its page and enter the password.')
  if (request.method === 'GET' || request.method === 'HEAD') return null
  if (!request.headers.get('content-type')?.startsWith(content))
    return problem(
      415,
      content === 'application/json' ? 'Send JSON (content-type application/json).' : `Send the file as ${content}.`,
    )
  return null
}

/** Another site's request, or one under a name that is not ours. */
export function foreign(request: Request): Response | null {
  const host = (request.headers.get('host') ?? '').toLowerCase()
  if (!ownNames().includes(host.replace(/:\d+$/, '')))
    return problem(
      403,
      `This page does not answer as “${host.slice(0, 80)}”. Names it should answer to are set with VIVID_NAMES.`,
    )
  if (request.method === 'GET' || request.method === 'HEAD') return null
  const origin = request.headers.get('origin')
  if (origin !== null && origin !== `http://${host}` && origin !== `https://${host}`)
    return problem(403, `A page of ${origin.slice(0, 80)} may not change anything here.`)
  return null
}

export function problem(
  status: number,
  message: string,
  more: Record<string, unknown> = {},
  headers: Record<string, string> = {},
): Response {
  return Response.json({ error: message, ...more }, { status, headers })
}
