// The second pane: whether it is there, what it shows, whether both cameras move as one.
import { defineStore } from 'pinia'
import { ref } from 'vue'

export const usePanes = defineStore('panes', () => {
  const open = ref(false)
  /** The document beside; null shows the same as the first pane. */
  const shows = ref<string | null>(null)
  const linked = ref(true)
  function toggle(): void {
    open.value = !open.value
  }
  function close(): void {
    open.value = false
    shows.value = null
  }
  return { open, shows, linked, toggle, close }
})
