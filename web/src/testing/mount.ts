// A component drawn into a page of its own, for tests of what it shows and does.
import { getActivePinia } from 'pinia'
import { type Component, createApp, h, nextTick } from 'vue'
import { settled } from './server'

export interface Drawn {
  root: HTMLElement
  /** What is marked for tests by this name; it has to be there. */
  find<T extends HTMLElement>(testid: string): T
  all(css: string): HTMLElement[]
  text(css: string): string[]
  click(what: string | HTMLElement): Promise<void>
  /** Type a text over what a field holds; `change` when it is left. */
  type(what: string | HTMLElement, text: string): Promise<void>
  gone(): void
}

export function mount(component: Component, props: Record<string, unknown> = {}): Drawn {
  const root = document.createElement('div')
  document.body.append(root)
  const app = createApp({ render: () => h(component, props) })
  app.use(getActivePinia()!)
  app.mount(root)
  const find = <T extends HTMLElement>(testid: string): T => {
    const found = root.querySelector<T>(`[data-testid="${testid}"]`)
    if (!found) throw new Error(`nothing is called ${testid} in ${root.innerHTML}`)
    return found
  }
  const of = (what: string | HTMLElement): HTMLElement => (typeof what === 'string' ? find(what) : what)
  const all = (css: string): HTMLElement[] => [...root.querySelectorAll<HTMLElement>(css)]
  return {
    root,
    find,
    all,
    text: (css) => all(css).map((e) => e.textContent?.replace(/\s+/g, ' ').trim() ?? ''),
    async click(what) {
      of(what).click()
      await settled()
    },
    async type(what, text) {
      const field = of(what) as HTMLInputElement
      field.dispatchEvent(new Event('focus'))
      field.value = text
      field.dispatchEvent(new Event('input', { bubbles: true }))
      field.dispatchEvent(new Event('change', { bubbles: true }))
      await nextTick()
      await settled()
    },
    gone() {
      app.unmount()
      root.remove()
    },
  }
}
