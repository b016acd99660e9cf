// The help: all pages fetched once, searched here, the page that is open.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { find } from './search'

export const useHelp = defineStore('help', () => {
  const shown = ref(false)
  const pages = shallowRef<Schemas['HelpPage'][]>([])
  const open = ref<string | null>(null)
  const wanted = ref('')
  const trouble = ref('')
  const page = computed(() => pages.value.find((p) => p.id === open.value) ?? null)
  const found = computed(() => find(pages.value, wanted.value))

  /** Show the help, at a page when one is named. */
  async function show(id: string | null = null): Promise<void> {
    shown.value = true
    open.value = id
    if (id) wanted.value = ''
    if (pages.value.length) return
    try {
      pages.value = (await call('get', '/api/help')).pages
    } catch (error) {
      trouble.value = error instanceof Error ? error.message : String(error)
    }
  }
  return { shown, pages, open, wanted, trouble, page, found, show }
})
