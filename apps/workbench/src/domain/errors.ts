/** What can go wrong for a user, with the HTTP status that tells it. Closed, so that the table is complete. */
const HTTP_STATUS = {
  'not-found': 404,
  invalid: 400,
  conflict: 409,
  unusable: 422,
  forbidden: 403,
  busy: 503,
  internal: 500,
} as const
export type AppErrorCode = keyof typeof HTTP_STATUS
export const ERROR_CODES = Object.keys(HTTP_STATUS) as AppErrorCode[]

/** An error whose message is meant for the user: what happened, what was kept, what to do. */
export class AppError extends Error {
  override readonly name = 'AppError'
  constructor(
    readonly code: AppErrorCode,
    message: string,
    options?: ErrorOptions,
  ) {
    super(message, options)
  }

  get status(): number {
    return HTTP_STATUS[this.code]
  }
}
