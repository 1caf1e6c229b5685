/** A job that a device can be added to. */
export interface JobChoice {
  id: number
  number: string
  owner: string
}
