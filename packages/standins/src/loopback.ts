import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'

/** An HTTP server of a stand-in, on loopback. A fault in an answer ends that answer and nothing else. */
export abstract class LoopbackServer {
  readonly #server: Server

  constructor() {
    this.#server = createServer((request, response) => {
      this.answer(request, response).catch(() => response.destroy())
    })
  }

  protected abstract answer(request: IncomingMessage, response: ServerResponse): Promise<void>

  listen(port: number): Promise<void> {
    return new Promise((go, fail) => {
      this.#server.once('error', fail)
      this.#server.listen(port, '127.0.0.1', go)
    })
  }

  get address(): string {
    const address = this.#server.address()
    return `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`
  }

  close(): Promise<void> {
    this.#server.closeAllConnections()
    return new Promise((go) => this.#server.close(() => go()))
  }
}
