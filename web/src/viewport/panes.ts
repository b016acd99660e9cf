// The second pane: whether it is there, what it shows, whether both cameras move as one.
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { Triple } from './mesh'
import type { CutPlane } from './sections'

/** What keys and quick entry can do to the main pane. */
export interface PaneControl {
  toggleSection(): void
  /** Cut the picture open by one plane. */
  cutAt(plane: CutPlane): void
  toggleSeeThrough(): void
  togglePerspective(): void
  faceOn(): void
  previous(): void
}

export const usePanes = defineStore('panes', () => {
  const open = ref(false)
  /** The document beside; null shows the same as the first pane. */
  const shows = ref<string | null>(null)
  /** The sheet whose blank is beside: a body's id, empty for the first there is, null for none. */
  const blank = ref<string | null>(null)
  /** Places on the model the pane beside points at (mm). */
  const spots = shallowRef<Triple[]>([])
  const linked = ref(true)
  /** What the two panes show, when that is not simply their documents. */
  const captions = ref<string[] | null>(null)
  const control = shallowRef<PaneControl | null>(null)
  function toggle(): void {
    open.value = !open.value
  }
  function close(): void {
    open.value = false
    shows.value = null
    blank.value = null
    spots.value = []
  }
  return { open, shows, blank, spots, linked, captions, control, toggle, close }
})
