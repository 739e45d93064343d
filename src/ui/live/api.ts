import { z } from 'zod'

const problem = z.looseObject({ error: z.string(), accepts: z.string().optional() })

export type Answer<T> =
  | { kind: 'ok'; value: T }
  | { kind: 'problem'; status: number; error: string; accepts: string | null; body: unknown }
  | { kind: 'away'; error: string }

/** Asks the server. `away` means it could not be reached at all. */
export async function ask<T>(
  path: string,
  answer: z.ZodType<T>,
  body?: unknown,
  method: 'POST' | 'DELETE' = 'POST',
): Promise<Answer<T>> {
  let response: Response
  try {
    response = await fetch(
      path,
      body === undefined
        ? { cache: 'no-store' }
        : { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) },
    )
  } catch {
    return { kind: 'away', error: 'The server cannot be reached.' }
  }
  const json: unknown = await response.json().catch(() => null)
  if (response.ok) {
    const parsed = answer.safeParse(json)
    return parsed.success
      ? { kind: 'ok', value: parsed.data }
      : {
          kind: 'problem',
          status: response.status,
          error: 'The server gave an answer this page does not know; reload it.',
          accepts: null,
          body: json,
        }
  }
  const told = problem.safeParse(json)
  return {
    kind: 'problem',
    status: response.status,
    error: told.success ? told.data.error : `The server answered ${response.status}.`,
    accepts: told.success ? (told.data.accepts ?? null) : null,
    body: json,
  }
}
