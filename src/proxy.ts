import { randomBytes } from 'node:crypto'
import { type NextRequest, NextResponse } from 'next/server'
import { foreign } from './server/http/guard'
import { mayEnter, SESSION_COOKIE } from './server/http/session'

/**
 * What every page passes: our own names only, the shop's password where one is asked for, and scripts of our own making
 * only.
 */
export function proxy(request: NextRequest): Response {
  const refused = foreign(request)
  if (refused) return refused
  const atDoor = request.nextUrl.pathname === '/login'
  if (!atDoor && !mayEnter(request.cookies.get(SESSION_COOKIE)?.value))
    return NextResponse.redirect(
      new URL(
        '/login',
        `${request.headers.get('x-forwarded-proto') === 'https' ? 'https' : 'http'}://${request.headers.get('host') ?? ''}`,
      ),
    )
  const policy = contentPolicy(randomBytes(16).toString('base64'))
  const headers = new Headers(request.headers)
  headers.set('content-security-policy', policy)
  const response = NextResponse.next({ request: { headers } })
  response.headers.set('content-security-policy', policy)
  response.headers.set('x-content-type-options', 'nosniff')
  response.headers.set('referrer-policy', 'same-origin')
  return response
}

/** Styles may stand in elements, since measured columns and charts set them; scripts may not. */
function contentPolicy(nonce: string): string {
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'self'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ')
}

export const config = { matcher: ['/((?!api/|_next/static|_next/image|favicon.ico).*)'] }
