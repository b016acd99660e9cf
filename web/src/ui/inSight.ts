// A card in a long panel comes into sight when it opens, and stays there as what it holds comes and goes.
import { onMounted, onUnmounted, type Ref } from 'vue'

export function useInSight(card: Ref<HTMLElement | null>): void {
  const watcher = new ResizeObserver(() => card.value?.scrollIntoView({ block: 'nearest' }))
  onMounted(() => card.value && watcher.observe(card.value))
  onUnmounted(() => watcher.disconnect())
}
