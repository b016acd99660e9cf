// One event stream per tab, closed while the tab is hidden: browsers allow only six per host.
export interface News {
  kind: string
  id?: string
  revision?: number
  [key: string]: unknown
}
type Listener = (news: News) => void

const listeners = new Set<Listener>()
let source: EventSource | null = null

function open(): void {
  if (source || document.hidden || listeners.size === 0) return
  source = new EventSource('/api/events')
  source.onmessage = (message) => {
    const news = JSON.parse(message.data as string) as News
    for (const listener of listeners) listener(news)
  }
}

function close(): void {
  source?.close()
  source = null
}

document.addEventListener('visibilitychange', () => {
  if (document.hidden) close()
  else {
    open()
    for (const listener of listeners) listener({ kind: 'wake' })
  }
})
// A page kept for the back button would hold its stream open.
window.addEventListener('pagehide', close)

/** Listen to news until the returned function is called. */
export function listen(listener: Listener): () => void {
  listeners.add(listener)
  open()
  return () => {
    listeners.delete(listener)
    if (listeners.size === 0) close()
  }
}
