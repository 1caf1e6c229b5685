import { z } from 'zod'
import { ERROR_CODES } from '../domain/errors.js'
import { type Contract, partsOf } from './contract.js'
import { CONTRACTS } from './contracts.js'
import { PARAMETERS } from './parameters.js'

type Schema = Record<string, unknown>

const CONTENT_STATUS = 200

/**
 * The contracts as a document of OpenAPI 3.1.1 (spec.openapis.org/oas/v3.1.1). Schemas are JSON Schema as Zod derives
 * it, in the form in which values travel: moments are texts.
 */
export function openApiDocument(): Schema {
  const paths: Record<string, Record<string, Schema>> = {}
  for (const [name, contract] of Object.entries<Contract>(CONTRACTS)) {
    const { method, path } = partsOf(name)
    paths[path] = { ...paths[path], [method.toLowerCase()]: operation(path, contract) }
  }
  const named: Record<string, Schema> = { Error: ERROR }
  const placed = withoutParts(paths, named)
  return {
    openapi: '3.1.1',
    info: {
      title: 'Lumbrin’s own API',
      version: '0.1.0',
      description:
        'What the pages of the application ask its server, on loopback only, with the cookie of a session. It follows the application and may change with any version.',
    },
    paths: placed,
    components: { schemas: named },
  }
}

const ERROR: Schema = {
  type: 'object',
  required: ['error'],
  properties: {
    error: {
      type: 'object',
      required: ['code', 'message'],
      properties: {
        code: { enum: ERROR_CODES },
        message: { type: 'string', description: 'For the user: what happened, what was kept, what to do.' },
      },
    },
  },
}

function operation(path: string, contract: Contract): Schema {
  const { summary, body } = contract
  const parameters = [...pathParameters(path), ...queryParameters(contract), ...versionParameter(contract)]
  return {
    summary,
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(body === undefined ? {} : { requestBody: { required: true, content: bodyContent(body) } }),
    responses: { ...answer(contract), default: { description: 'An error', content: json(reference('Error')) } },
  }
}

const reference = (name: string): Schema => ({ $ref: `#/components/schemas/${name}` })
const json = (schema: Schema): Schema => ({ 'application/json': { schema } })

/** A schema with its named parts under `$defs`. */
function schemaOf(schema: z.ZodType): Schema {
  const { $schema, ...rest } = z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' })
  return rest
}

/** A copy in which each schema refers to the document's components; the named parts of all are put into `named`. */
function withoutParts<T extends object>(value: T, named: Record<string, Schema>): T {
  const text = JSON.stringify(value).replaceAll('"#/$defs/', '"#/components/schemas/')
  return JSON.parse(text, (key, part) => {
    if (key !== '$defs') return part
    Object.assign(named, part)
    return undefined
  })
}

const pathParameters = (path: string): Schema[] =>
  [...path.matchAll(/\{(\w+)\}/g)].map(([, name = '']) => ({
    name,
    in: 'path',
    required: true,
    schema: schemaOf(z.object(PARAMETERS)).properties?.[name as never] ?? {},
  }))

function queryParameters({ query }: Contract): Schema[] {
  if (!query) return []
  const { properties, required, $defs } = schemaOf(query) as {
    properties: Record<string, Schema>
    required?: string[]
    $defs?: Schema
  }
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required?.includes(name) ?? false,
    schema: { ...schema, $defs },
  }))
}

const versionParameter = ({ versioned, body }: Contract): Schema[] =>
  versioned && body ? [{ name: 'If-Match', in: 'header', required: true, schema: { type: 'string' } }] : []

const bodyContent = (body: z.ZodType | 'file'): Schema =>
  body === 'file' ? { 'application/octet-stream': {} } : json(schemaOf(body))

function answer({ answer: kind, versioned }: Contract): Schema {
  const headers = versioned ? { headers: { ETag: { schema: { type: 'string' } } } } : {}
  switch (kind.kind) {
    case 'nothing':
      return { [kind.status]: { description: kind.status === 202 ? 'Begun' : 'Done' } }
    case 'json':
      return { [kind.status]: { description: 'The answer', ...headers, content: json(schemaOf(kind.schema)) } }
    case 'lines':
      return {
        [CONTENT_STATUS]: {
          description: 'JSON Lines, each of this shape',
          content: { 'application/jsonl': { schema: schemaOf(kind.schema) } },
        },
      }
    case 'events':
      return {
        [CONTENT_STATUS]: {
          description: 'Server-sent events; the data of each is JSON of this shape',
          content: { 'text/event-stream': { schema: schemaOf(kind.schema) } },
        },
      }
    case 'file':
      return { [CONTENT_STATUS]: { description: 'The bytes', content: { [kind.mediaType]: {} } } }
  }
}
