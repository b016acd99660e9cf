// What the layers of a DXF are called, and which are left out: kept in this browser.
import { computed, reactive, watch } from 'vue'

export const KINDS = [
  { kind: 'OUTER', label: 'Outline' },
  { kind: 'INNER', label: 'Holes' },
  { kind: 'BEND_UP', label: 'Bends up' },
  { kind: 'BEND_DOWN', label: 'Bends down' },
  { kind: 'FORM_UP', label: 'Forms up' },
  { kind: 'FORM_DOWN', label: 'Forms down' },
  { kind: 'GRAIN', label: 'Grain' },
  { kind: 'TEXT', label: 'Notes' },
] as const
export interface Layer {
  kind: string
  label: string
  name: string
  on: boolean
}
const KEPT = 'vireo.layers'

/** What a layer may be called. */
export const good = (name: string): boolean => /^[A-Za-z0-9_\- ]{1,31}$/.test(name)

/** How layers are told to the server; nothing where they are as they are by themselves. */
export function told(layers: Layer[]): string {
  if (layers.every((l) => l.on && l.name === l.kind)) return ''
  return layers
    .filter((l) => l.on)
    .map((l) => `${l.kind}=${good(l.name) ? l.name : l.kind}`)
    .join(',')
}

function kept(): Record<string, { name: string; on: boolean }> {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Record<string, { name: string; on: boolean }>
  } catch {
    return {}
  }
}
let one: { layers: Layer[]; told: { readonly value: string } } | null = null
export function useLayers(): { layers: Layer[]; told: { readonly value: string } } {
  if (!one) {
    const old = kept()
    const layers = reactive(KINDS.map((k) => ({ ...k, name: old[k.kind]?.name ?? k.kind, on: old[k.kind]?.on ?? true })))
    watch(layers, () =>
      localStorage.setItem(KEPT, JSON.stringify(Object.fromEntries(layers.map((l) => [l.kind, { name: l.name, on: l.on }])))),
    )
    one = { layers, told: computed(() => told(layers)) }
  }
  return one
}
