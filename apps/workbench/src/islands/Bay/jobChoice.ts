/** A job as the Bay offers it. */
export interface JobChoice {
  id: number
  number: string
  owner: string
  device: string
}
