// What a pane shows bodies as: the style, its direction and threshold, the maps it needs.
import { turns } from '../api/newest'
import { computed, type Ref, ref, type ShallowRef, shallowRef, watch } from 'vue'
import { Matrix4, Vector3 } from 'three'
import type { BodySpec, Skin, Style } from './body'
import type { Engine } from './engine'
import { fetchMap, fieldColours, type FieldMap } from './fields'
import type { FaceMap } from './maps'
import type { Triple } from './mesh'
import { rowOf, STYLES, WAYS } from './styles'

export interface LookState {
  style: Ref<Style>
  way: Ref<string>
  thresholds: Ref<Record<string, number>>
  /** Maps by body, once they are all there. */
  fields: ShallowRef<Map<string, FieldMap> | null>
  busy: Ref<boolean>
  trouble: Ref<string>
  /** Take up a style with its direction and threshold. */
  take: (style: Style, way?: string, threshold?: number | null) => void
  setThreshold: (style: Style, value: number) => void
  setWay: (way: string) => void
}

export function useLook(engine: ShallowRef<Engine | null>, bodies: () => BodySpec[]): LookState {
  const style = ref<Style>('shaded')
  const way = ref('+Z')
  const thresholds = ref<Record<string, number>>(Object.fromEntries(STYLES.flatMap((r) => (r.slider ? [[r.style, r.slider[3]]] : []))))
  const fields = shallowRef<Map<string, FieldMap> | null>(null)
  const busy = ref(false)
  const trouble = ref('')
  const turn = turns()

  const direction = computed<Triple>(() => WAYS.find(([w]) => w === way.value)?.[1] ?? [0, 0, 1])
  const faceMap = computed<FaceMap | null>(() => {
    const row = rowOf(style.value)
    return row.faces ? { kind: row.faces, way: direction.value, threshold: thresholds.value[row.style] } : null
  })
  const skins = computed<Map<string, Skin> | null>(() => {
    const row = rowOf(style.value)
    if (!row.field || !fields.value) return null
    const threshold = thresholds.value[row.style] ?? 0
    return new Map(
      [...fields.value].map(([id, field]) => [id, { field, colours: fieldColours(field, row.field!, threshold), density: threshold }]),
    )
  })

  async function load(): Promise<void> {
    const newest = turn()
    const { field } = rowOf(style.value)
    trouble.value = ''
    if (!field) {
      fields.value = null
      busy.value = false
      return
    }
    busy.value = true
    try {
      const shown = bodies().filter((b) => !b.ghost)
      const found = await Promise.all(shown.map((b) => fetchMap(b.mesh.key, field, localWay(b, direction.value))))
      if (newest()) fields.value = new Map(shown.map((b, i) => [b.id, found[i]]))
    } catch (error) {
      if (!newest()) return
      fields.value = null
      trouble.value = error instanceof Error ? error.message : String(error)
    } finally {
      if (newest()) busy.value = false
    }
  }

  watch([style, way], () => {
    fields.value = null
    void load()
  })
  watch(bodies, () => rowOf(style.value).field && void load())
  watch([style, faceMap, skins], () => engine.value?.setStyle(style.value, faceMap.value, skins.value))
  function setThreshold(of: Style, value: number): void {
    thresholds.value = { ...thresholds.value, [of]: value }
  }
  function take(next: Style, towards = '+Z', threshold: number | null = null): void {
    if (threshold !== null) setThreshold(next, threshold)
    way.value = towards
    style.value = next
  }
  return { style, way, thresholds, fields, busy, trouble, take, setThreshold, setWay: (w) => (way.value = w) }
}

/** A direction of the space in the coordinates of a placed body. */
function localWay(body: BodySpec, way: Triple): Triple {
  if (!body.matrix) return way
  return new Vector3(...way).transformDirection(new Matrix4().fromArray(body.matrix).invert()).toArray()
}
