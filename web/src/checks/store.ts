// Checks of the open document: what they found, and picks for a new one.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { StoredPick } from '../viewport/mesh'

export const useChecks = defineStore('checks', () => {
  const picking = ref(false)
  const picked = shallowRef<StoredPick[]>([])
  const counts = computed(() => ({ holds: 0, fails: 0, stale: 0 }))
  function take(pick: StoredPick): void {
    picked.value = [...picked.value, pick].slice(-2)
  }
  return { picking, picked, counts, take }
})
