import type { z } from 'zod'
import type { Wire } from '../domain/wire.js'
import type { Contract } from './contract.js'
import { copyContracts } from './copies.js'
import { findingContracts } from './findings.js'
import { jobContracts } from './jobs.js'
import type { PARAMETERS } from './parameters.js'
import { sourceContracts } from './sources.js'
import { workbenchContracts } from './workbench.js'

/** Every endpoint of the application. `/api/internal` is not among them: there its own processes speak to each other. */
export const CONTRACTS = {
  ...jobContracts,
  ...findingContracts,
  ...sourceContracts,
  ...copyContracts,
  ...workbenchContracts,
} as const

export type Name = keyof typeof CONTRACTS
type Of<N extends Name> = (typeof CONTRACTS)[N]

type PlaceholderIn<Path> = Path extends `${string}{${infer P}}${infer Rest}` ? P | PlaceholderIn<Rest> : never
type Placeholder<N extends Name> = PlaceholderIn<N> & keyof typeof PARAMETERS

/** What stands in the path, as the server has it once it was parsed. */
export type PathOf<N extends Name> = { [P in Placeholder<N>]: z.output<(typeof PARAMETERS)[P]> }
/** The same as whoever asks names it. */
export type PathGiven<N extends Name> = { [P in Placeholder<N>]: string | number }

type In<S> = S extends z.ZodType ? z.input<S> : S extends 'file' ? Blob : undefined
type Out<S> = S extends z.ZodType ? z.output<S> : undefined
type Part<N extends Name, Key extends keyof Contract> = Of<N> extends { [K in Key]: infer S } ? S : undefined
type Schema<N extends Name, Kind extends string> = Of<N>['answer'] extends { kind: Kind; schema: infer S }
  ? S
  : undefined

export type QueryOf<N extends Name> = Out<Part<N, 'query'>>
export type QueryGiven<N extends Name> = In<Part<N, 'query'>>
export type BodyOf<N extends Name> = Out<Part<N, 'body'>>
export type BodyGiven<N extends Name> = In<Part<N, 'body'>>

/** What is answered, as the server makes it; moments are dates. */
export type AnswerOf<N extends Name, Kind extends string = 'json'> = Out<Schema<N, Kind>>
/** What is answered, as it arrives in the browser; moments are ISO 8601 texts. */
export type AnswerGiven<N extends Name, Kind extends string = 'json'> = Wire<Out<Schema<N, Kind>>>
/** Names of the endpoints whose answers are of a kind. */
export type NamesOf<Kind extends string> = { [N in Name]: Of<N>['answer'] extends { kind: Kind } ? N : never }[Name]
