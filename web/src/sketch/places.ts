// Asking for places in the sketch plane by clicks, for tools that are not drawing tools.
import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import type { Pair } from './model'

export const usePlaces = defineStore('sketch-places', () => {
  const asked = shallowRef<{ prompts: string[]; got: Pair[]; done: (places: Pair[] | null) => void } | null>(null)
  const open = computed(() => asked.value !== null)
  const got = computed(() => asked.value?.got ?? [])
  const prompt = computed(() => (asked.value ? asked.value.prompts[asked.value.got.length] : ''))

  /** Resolves to one place per prompt, or to null when it is left with Esc. */
  function ask(...prompts: string[]): Promise<Pair[] | null> {
    leave()
    return new Promise((resolve) => (asked.value = { prompts, got: [], done: resolve }))
  }
  function give(at: Pair): void {
    const now = asked.value
    if (!now) return
    const places = [...now.got, at]
    if (places.length < now.prompts.length) asked.value = { ...now, got: places }
    else {
      asked.value = null
      now.done(places)
    }
  }
  function leave(): void {
    const now = asked.value
    asked.value = null
    now?.done(null)
  }
  return { open, got, prompt, ask, give, leave }
})
