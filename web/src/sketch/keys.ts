// Keys while a sketch is open: typing sizes, ending tools, copying, deleting.
import { onMounted, onUnmounted } from 'vue'
import { entities, type Pair } from './model'
import { usePlaces } from './places'
import { useSketch } from './store'
import { useTool } from './tool'

/** `at` tells where the pointer is (mm); `focusSize` puts the cursor into the first size. */
export function useSketchKeys(at: () => Pair, focusSize: () => void): void {
  const sketch = useSketch()
  const tool = useTool()
  const places = usePlaces()

  function key(event: KeyboardEvent): void {
    if (/^(INPUT|SELECT|TEXTAREA)$/.test((event.target as HTMLElement).tagName)) return
    const command = event.ctrlKey || event.metaKey
    const eat = (): void => {
      event.preventDefault()
      event.stopPropagation()
    }
    if (command && event.key.toLowerCase() === 'c') sketch.copy()
    else if (command && event.key.toLowerCase() === 'v') void sketch.putIn(at())
    else if (command && event.key.toLowerCase() === 'a') {
      eat()
      sketch.selected = entities(sketch.drawing)
        .filter((e) => e.type !== 'point')
        .map((e) => e.id)
    } else if (command) return
    // Digits typed while drawing go into the first size.
    else if (/^[\d.]$/.test(event.key) && tool.atPointer.length) {
      eat()
      const name = tool.atPointer[0].name
      tool.texts[name] = (tool.texts[name] ?? '') + event.key
      focusSize()
    } else if (event.key === 'Tab' && tool.atPointer.length) {
      eat()
      focusSize()
    } else if (event.key === 'Enter' && tool.tool) {
      eat()
      void tool.enter()
    } else if (event.key === 'Escape') {
      event.stopPropagation()
      if (places.open) places.leave()
      else if (sketch.motions.length) sketch.motions = []
      else if (tool.spots.length) tool.reset()
      else if (sketch.tool !== 'select') sketch.tool = 'select'
      else sketch.select(null, false)
    } else if ((event.key === 'Delete' || event.key === 'Backspace') && sketch.selected.length) void sketch.erase()
  }
  onMounted(() => window.addEventListener('keydown', key, true))
  onUnmounted(() => window.removeEventListener('keydown', key, true))
}
