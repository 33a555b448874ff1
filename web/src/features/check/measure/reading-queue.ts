// Readings on their way to the server, in order: sent one after another, kept until the server has said that it
// has them, sent again with the same key when the answer was lost.

/** Something that waits to be sent, under the key it is sent with each time. */
export interface Waiting<T> {
  key: string
  reading: T
}

export interface QueueParts<T, A> {
  /** Sends one; throws what went wrong. */
  send: (one: Waiting<T>) => Promise<A>
  /** Whether what went wrong is worth trying again. */
  isOutOfReach: (error: unknown) => boolean
  /** Keeps what waits, where a closed window does not lose it. */
  keep: (waiting: Waiting<T>[]) => void
  /** The server has one; told before it is taken off the list, so that both are drawn at once. */
  onKept: (answer: A) => void
  /** What waits, or whether the server is out of reach, has changed. */
  onChange: () => void
  /** Waits before the next try. */
  pause: () => Promise<void>
}

export class ReadingQueue<T, A> {
  unreachable = false
  private busy = false
  private stopped = false
  private onRefused: (reading: T, error: unknown) => void = () => {}
  private readonly parts: QueueParts<T, A>
  waiting: Waiting<T>[]

  constructor(waiting: Waiting<T>[], parts: QueueParts<T, A>) {
    this.waiting = waiting
    this.parts = parts
  }

  /** Who is told of what the server refuses; it waits no longer. */
  refusalsGoTo(told: (reading: T, error: unknown) => void) {
    this.onRefused = told
  }

  add(one: Waiting<T>) {
    this.put([...this.waiting, one])
    void this.run()
  }

  /** Nobody looks any more: what waits stays kept. */
  stop() {
    this.stopped = true
  }

  /** Sends what waits, the oldest first; does nothing where that is under way. */
  async run() {
    this.stopped = false
    if (this.busy) return
    this.busy = true
    for (let first = this.waiting[0]; first && !this.stopped; first = this.waiting[0]) {
      try {
        const answer = await this.parts.send(first)
        this.parts.onKept(answer)
        this.unreachable = false
        this.put(this.waiting.slice(1))
      } catch (error) {
        if (this.parts.isOutOfReach(error)) {
          this.unreachable = true
          this.parts.onChange()
          await this.parts.pause()
        } else {
          this.unreachable = false
          this.put(this.waiting.slice(1))
          this.onRefused(first.reading, error)
        }
      }
    }
    this.busy = false
  }

  private put(next: Waiting<T>[]) {
    this.waiting = next
    this.parts.keep(next)
    this.parts.onChange()
  }
}
