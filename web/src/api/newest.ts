// Asking again before the answer is there: only the newest question counts.

/** Hands out turns; a turn tells whether it is still the newest. */
export function turns(): { (): () => boolean; end: () => void } {
  let newest = 0
  const take = (): (() => boolean) => {
    const mine = ++newest
    return () => mine === newest
  }
  /** Whoever asked last is answered no more. */
  take.end = (): void => void newest++
  return take
}

/** Sends wishes one at a time; while one is under way only the newest of the others is kept. */
export class Pump<W> {
  private wanted: { wish: W } | null = null
  private running: Promise<void> | null = null

  constructor(private readonly send: (wish: W) => Promise<void>) {}

  wish(wish: W): void {
    this.wanted = { wish }
    this.running ??= this.run()
  }

  /** Once everything wished for has been answered. */
  async settled(): Promise<void> {
    while (this.running) await this.running
  }

  private async run(): Promise<void> {
    try {
      while (this.wanted) {
        const { wish } = this.wanted
        this.wanted = null
        await this.send(wish)
      }
    } finally {
      // At once with the last look at what is wanted: a wish a moment later starts anew.
      this.running = null
    }
  }
}

/** Answers by key, each fetched once; at most `most` are kept, the oldest go. */
export class Fetched<T> {
  private readonly kept = new Map<string, Promise<T>>()

  constructor(
    private readonly fetch: (key: string) => Promise<T>,
    private readonly most: number,
  ) {}

  get(key: string): Promise<T> {
    let found = this.kept.get(key)
    if (!found) {
      found = this.fetch(key)
      found.catch(() => this.kept.delete(key))
      this.kept.set(key, found)
      if (this.kept.size > this.most) this.kept.delete(this.kept.keys().next().value as string)
    }
    return found
  }
}
