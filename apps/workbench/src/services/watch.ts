const TELL_MS = 1000

/** The reason of a signal when a user stops the work. */
export class Stopped extends Error {
  override readonly name = 'Stopped'
}

/** Reports the progress of long work once a second, and aborts its signal when a user wants it stopped. */
export class Watch<Progress> {
  readonly #stop = new AbortController()
  readonly #timer: NodeJS.Timeout
  /** Says with `Stopped` that somebody stops the work, or what `ending` says. */
  readonly signal: AbortSignal
  #progress: Progress

  /**
   * @param ending this process is to end
   * @param tell keeps how far the work is; true: it is to stop
   */
  constructor(ending: AbortSignal, first: Progress, tell: (progress: Progress) => Promise<boolean>) {
    this.#progress = first
    this.signal = AbortSignal.any([this.#stop.signal, ending])
    const once = async () => {
      if (await tell(this.#progress)) this.#stop.abort(new Stopped('stopped'))
    }
    // The database may be away for a moment; the work itself meets that at its next step.
    this.#timer = setInterval(() => void once().catch(() => {}), TELL_MS)
  }

  note(progress: Progress): void {
    this.#progress = progress
  }

  end(): void {
    clearInterval(this.#timer)
  }
}
