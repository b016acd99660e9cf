// Habits of the person at this browser: mouse, theme, and what new projects start with.
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import { PLAIN, type Units } from '../ui/units'
import { type Binding, bindingsOf, OWN, type Scheme } from './mouse'

const KEY = 'vireo-habits'
interface Habits {
  scheme: Scheme
  own: Binding[]
  units: Units
  material: string
  /** Soft shadows in corners and hollows. */
  shading: boolean
}
const FIRST: Habits = { scheme: 'right', own: OWN, units: PLAIN, material: 'S235', shading: true }

function kept(): Habits {
  try {
    const found = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Habits>
    return { ...FIRST, ...found, units: { ...PLAIN, ...found.units } }
  } catch {
    return FIRST // what another version left unreadable
  }
}

export const useHabits = defineStore('habits', () => {
  const found = kept()
  const scheme = ref<Scheme>(found.scheme)
  const own = ref<Binding[]>(found.own)
  const units = ref<Units>(found.units)
  const material = ref(found.material)
  const shading = ref(found.shading)
  const bindings = computed(() => bindingsOf(scheme.value, own.value))
  watch(
    [scheme, own, units, material, shading],
    () =>
      localStorage.setItem(
        KEY,
        JSON.stringify({
          scheme: scheme.value,
          own: own.value,
          units: units.value,
          material: material.value,
          shading: shading.value,
        }),
      ),
    { deep: true },
  )
  return { scheme, own, units, material, shading, bindings }
})
