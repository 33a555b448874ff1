// Writes on their way to the server, in order: sent one after another, kept until the server has said that it
// has them, sent again with the same key when the answer was lost. What waits is kept where every window of the browser
// sees it, and one of them sends.

/** Something that waits to be sent, under the key it is sent with each time. */
export interface Waiting<T> {
  key: string
  write: T
}

export interface QueueParts<T, A> {
  /** Sends one; throws what went wrong. */
  send: (one: Waiting<T>) => Promise<A>
  /** Whether what went wrong is worth trying again. */
  isOutOfReach: (error: unknown) => boolean
  /** Whether the server failed at it: that may pass, or never. */
  isFault: (error: unknown) => boolean
  /** What waits, the oldest first, whichever window it was typed in. */
  list: () => Waiting<T>[]
  /** Keeps one that waits, where a closed window does not lose it. */
  keep: (one: Waiting<T>) => void
  /** One waits no longer. */
  drop: (key: string) => void
  /** Does something while no other window does. */
  alone: (work: () => Promise<void>) => Promise<void>
  /** The server has one; told before it is taken off the list, so that both are drawn at once. */
  onKept: (answer: A, one: Waiting<T>) => void
  /** What waits, or whether the server is out of reach, has changed. */
  onChange: () => void
  /** Waits before the next try. */
  pause: () => Promise<void>
}

/** What the server fails at so often is not what the others wait behind any longer. */
export const MOST_FAULTS = 5

export class WriteQueue<T, A> {
  unreachable = false
  /** How often in a row the server has failed at the first. */
  private faults = 0
  private running: Promise<void> | null = null
  private stopped = false
  private onRefused: (one: Waiting<T>, error: unknown) => void = () => {}
  private readonly parts: QueueParts<T, A>

  constructor(parts: QueueParts<T, A>) {
    this.parts = parts
  }

  get waiting() {
    return this.parts.list()
  }

  /** Who is told of what the server refuses; it waits no longer. */
  refusalsGoTo(told: (one: Waiting<T>, error: unknown) => void) {
    this.onRefused = told
  }

  add(one: Waiting<T>) {
    this.parts.keep(one)
    this.parts.onChange()
    void this.run()
  }

  /** Nobody looks any more: what waits stays kept. */
  stop() {
    this.stopped = true
  }

  /** Sends what waits, the oldest first, and comes back when nothing waits; where that is under way, with it. */
  run(): Promise<void> {
    this.stopped = false
    this.running ??= this.sendWhileAny().finally(() => {
      this.running = null
      // Something came after the last look.
      if (this.waiting.length && !this.stopped) void this.run()
    })
    return this.running
  }

  private async sendWhileAny() {
    // Something is typed while the last is on its way out.
    do await this.parts.alone(() => this.sendAll())
    while (this.waiting.length && !this.stopped)
  }

  private async sendAll() {
    for (let first = this.waiting[0]; first && !this.stopped; first = this.waiting[0]) {
      const sent = await this.parts.send(first).then(
        (answer) => ({ answer }),
        (error: unknown) => ({ error }),
      )
      if ('answer' in sent) {
        this.unreachable = false
        this.faults = 0
        this.parts.onKept(sent.answer, first)
        this.drop(first.key)
        continue
      }
      const { error } = sent
      this.faults = this.parts.isFault(error) ? this.faults + 1 : 0
      if (this.parts.isOutOfReach(error) && this.faults < MOST_FAULTS) {
        this.unreachable = true
        this.parts.onChange()
        await this.parts.pause()
      } else {
        this.unreachable = false
        this.faults = 0
        this.drop(first.key)
        this.onRefused(first, error)
      }
    }
  }

  private drop(key: string) {
    this.parts.drop(key)
    this.parts.onChange()
  }
}
