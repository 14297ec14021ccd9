import createClient from 'openapi-fetch'
import { say } from '../messages/said'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

/** Problem is an answer that says what went wrong (RFC 9457). `kind` is a code of the catalogue. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly kind: string,
    /** A sentence of the server, for a kind of which the catalogue has none. */
    detail = '',
    /** What stands in the sentence, by name. */
    readonly values: Record<string, unknown> = {},
    /** What is wrong with which field, of a problem of kind `fields`. */
    readonly fields: Record<string, string> = {},
    /** After how many seconds it can be tried again, if that is said. */
    readonly after = 0,
  ) {
    super(detail)
  }
}

const client = createClient<paths>({ baseUrl: window.location.origin })

const prefix = 'urn:late-lantern:'

/** toProblem reads the body of an answer that is not as it should be. */
export function toProblem(status: number, body: unknown, after = 0): Problem {
  const model = (typeof body === 'object' && body !== null ? body : {}) as Partial<Schemas['Problem']>
  const kind = model.type?.startsWith(prefix) ? model.type.slice(prefix.length) : 'internal'
  const fields: Record<string, string> = {}
  if (kind === 'fields') for (const e of model.errors ?? []) fields[e.location ?? ''] ??= say({ ...e, text: e.message })
  return new Problem(status, kind, model.detail, model.with, fields, after)
}

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/**
 * ask gives the data of an answer, or throws a Problem. A server that cannot be reached is one of kind `unreachable`.
 */
export async function ask<T>(call: (c: typeof client) => Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await call(client)
  } catch {
    throw new Problem(0, 'unreachable')
  }
  const { ok, status, headers } = answer.response
  if (!ok) throw toProblem(status, answer.error, Number(headers.get('Retry-After') ?? 0) || 0)
  return answer.data as T
}
