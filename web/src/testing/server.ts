// A server at the other end of `fetch`, for tests of stores: it answers by method and path, and
// each answer can be held back to see what happens when they come in another order.
import { createPinia, setActivePinia } from 'pinia'
import { nextTick } from 'vue'
import { vi } from 'vitest'

export interface Asked {
  method: string
  path: string
  query: Record<string, string>
  body: unknown
}
type Answer = (asked: Asked) => unknown

/** An answer that is not 200. */
export class Refused {
  constructor(
    readonly status: number,
    readonly body: unknown,
  ) {}
}
export const refused = (status: number, text: string, more: Record<string, unknown> = {}): Refused =>
  new Refused(status, { error: { code: 'refused', text, where: [], offers: [], ...more } })

/** Promises run dry, watchers run. */
export async function settled(turns = 12): Promise<void> {
  for (let k = 0; k < turns; k++) {
    await Promise.resolve()
    await nextTick()
  }
}

class Stream {
  static readonly open = new Set<Stream>()
  onmessage: ((m: { data: string }) => void) | null = null
  constructor() {
    Stream.open.add(this)
  }
  close(): void {
    Stream.open.delete(this)
  }
}

export class Server {
  readonly asked: Asked[] = []
  private readonly answers: [RegExp, Answer][] = []
  private held: (() => void)[] | null = null

  constructor() {
    setActivePinia(createPinia())
    localStorage.clear()
    vi.stubGlobal('fetch', (url: string, how?: RequestInit) => this.fetch(url, how))
    vi.stubGlobal('EventSource', Stream)
  }

  /** `what` is `post /api/documents/*`; the answer given last to a path counts. */
  on(what: string, answer: unknown): this {
    const words = what.split('*').map((w) => w.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&'))
    this.answers.unshift([new RegExp(`^${words.join('[^/?]+')}$`), typeof answer === 'function' ? (answer as Answer) : () => answer])
    return this
  }
  /** From now on nothing is answered before `release` says which. */
  hold(): void {
    this.held = []
  }
  /** Let the answers held back go, by their place in the order they were asked for. */
  async release(...which: number[]): Promise<void> {
    const all = this.held ?? []
    for (const k of which) all[k]()
    await settled()
  }
  paths(): string[] {
    return this.asked.map((a) => `${a.method} ${a.path}`)
  }
  last(path: string): Asked {
    return this.asked.filter((a) => a.path.endsWith(path)).at(-1)!
  }

  /** News reach whoever listens. */
  async tell(news: Record<string, unknown>): Promise<void> {
    for (const s of Stream.open) s.onmessage?.({ data: JSON.stringify(news) })
    await settled()
  }

  private async fetch(url: string, how: RequestInit = {}): Promise<Response> {
    const at = new URL(url, 'http://here')
    const asked: Asked = {
      method: (how.method ?? 'GET').toLowerCase(),
      path: at.pathname,
      query: Object.fromEntries(at.searchParams),
      body: how.body ? (JSON.parse(how.body as string) as unknown) : undefined,
    }
    this.asked.push(asked)
    const held = this.held
    if (held) await new Promise<void>((go) => held.push(go))
    const found = this.answers.find(([path]) => path.test(`${asked.method} ${asked.path}`))
    if (!found) throw new Error(`nobody answers ${asked.method} ${asked.path}`)
    const said = found[1](asked)
    if (said instanceof Error) throw said
    const [status, body] = said instanceof Refused ? [said.status, said.body] : [200, said]
    if (body instanceof ArrayBuffer) return new Response(body, { status })
    return new Response(typeof body === 'string' ? body : JSON.stringify(body), { status })
  }
}

/** Numbers between -1 and 1, the same ones every time. */
export function dice(seed: number): () => number {
  let s = seed >>> 0 || 1
  return () => {
    s ^= s << 13
    s ^= s >>> 17
    s ^= s << 5
    return ((s >>> 0) / 2 ** 31 - 1) * 0.999999
  }
}
