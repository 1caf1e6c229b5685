import { z } from 'zod'

// Stored numbers, one kind for each table: the compiler refuses the id of a source where one of a job is asked for.
const id = z.number().int().positive()

export const jobId = id.brand<'JobId'>()
export const sourceId = id.brand<'SourceId'>()
export const readId = id.brand<'ReadId'>()
export const findingId = id.brand<'FindingId'>()
export const sightingId = id.brand<'SightingId'>()
export const handoverId = id.brand<'HandoverId'>()
export const returnId = id.brand<'ReturnId'>()
export const copyPlaceId = id.brand<'CopyPlaceId'>()
export const copyTaskId = id.brand<'CopyTaskId'>()
export const regularCopyId = id.brand<'RegularCopyId'>()

export type JobId = z.output<typeof jobId>
export type SourceId = z.output<typeof sourceId>
export type ReadId = z.output<typeof readId>
export type FindingId = z.output<typeof findingId>
export type SightingId = z.output<typeof sightingId>
export type HandoverId = z.output<typeof handoverId>
export type ReturnId = z.output<typeof returnId>
export type CopyPlaceId = z.output<typeof copyPlaceId>
export type CopyTaskId = z.output<typeof copyTaskId>
export type RegularCopyId = z.output<typeof regularCopyId>
