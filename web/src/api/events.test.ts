import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { listen, type News } from './events'

class Stream {
  static open: Stream[] = []
  onmessage: ((m: { data: string }) => void) | null = null
  constructor(readonly url: string) {
    Stream.open.push(this)
  }
  close(): void {
    Stream.open = Stream.open.filter((s) => s !== this)
  }
}
let hidden = false
const show = (now: boolean): void => {
  hidden = !now
  document.dispatchEvent(new Event('visibilitychange'))
}
const tell = (news: News): void => Stream.open[0].onmessage!({ data: JSON.stringify(news) })

describe('news of the server', () => {
  beforeEach(() => {
    vi.stubGlobal('EventSource', Stream)
    vi.spyOn(document, 'hidden', 'get').mockImplementation(() => hidden)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    vi.restoreAllMocks()
  })

  it('come over one stream, however many listen, and none when nobody does', () => {
    const heard: string[] = []
    const one = listen((n) => heard.push(`one ${n.kind}`))
    const two = listen((n) => heard.push(`two ${n.kind}`))
    expect(Stream.open.map((s) => s.url)).toEqual(['/api/events'])
    tell({ kind: 'document', id: 'd1' })
    one()
    tell({ kind: 'job' })
    expect(heard).toEqual(['one document', 'two document', 'two job'])
    two()
    expect(Stream.open).toEqual([])
  })

  it('stop while the tab is hidden; coming back says so, for what was missed', () => {
    const heard: string[] = []
    const stop = listen((n) => heard.push(n.kind))
    show(false)
    expect(Stream.open).toEqual([])
    const late = listen(() => {})
    expect(Stream.open).toEqual([])
    show(true)
    expect(Stream.open.length).toBe(1)
    expect(heard).toEqual(['wake'])
    late()
    stop()
  })

  it('are let go when the page is put aside', () => {
    const stop = listen(() => {})
    window.dispatchEvent(new Event('pagehide'))
    expect(Stream.open).toEqual([])
    stop()
  })
})
