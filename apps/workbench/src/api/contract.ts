import type { z } from 'zod'

/** What an endpoint answers when all goes well; errors have one shape everywhere: server/respond.ts. */
export type Answer =
  | { kind: 'json'; status: 200 | 201; schema: z.ZodType }
  /** 202: what was asked for has begun, and is told by another endpoint. */
  | { kind: 'nothing'; status: 202 | 204 }
  /** JSON Lines, each of this shape, as they come. */
  | { kind: 'lines'; schema: z.ZodType }
  /** Server-sent events whose data is JSON of this shape. */
  | { kind: 'events'; schema: z.ZodType }
  | { kind: 'file'; mediaType: string }

/** The contract of one endpoint; its method and path are its name in a list of contracts. */
export interface Contract {
  summary: string
  /** A flat object: each property is a parameter. */
  query?: z.ZodType
  /** `file`: the bytes themselves. */
  body?: z.ZodType | 'file'
  /**
   * The answer has a version, which is also its ETag; a PUT says which version was seen in If-Match (RFC 9110,
   * sections 8.8.3 and 13.1.1).
   */
  versioned?: true
  /** The answer is not kept by anything on its way. */
  secret?: true
  answer: Answer
}

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE'

/** Contracts by method and path, such as `GET /api/jobs/{job}/brief`. */
export type Contracts = { readonly [name in `${Method} /api/${string}`]: Contract }

/** @returns the method and the path of a contract's name */
export function partsOf(name: string): { method: string; path: string } {
  const [method = '', path = ''] = name.split(' ')
  return { method, path }
}

export const json = <S extends z.ZodType>(schema: S) => ({ kind: 'json', status: 200, schema }) as const
export const created = <S extends z.ZodType>(schema: S) => ({ kind: 'json', status: 201, schema }) as const
export const lines = <S extends z.ZodType>(schema: S) => ({ kind: 'lines', schema }) as const
export const events = <S extends z.ZodType>(schema: S) => ({ kind: 'events', schema }) as const
export const file = (mediaType: string) => ({ kind: 'file', mediaType }) as const
export const begun = { kind: 'nothing', status: 202 } as const
export const nothing = { kind: 'nothing', status: 204 } as const
