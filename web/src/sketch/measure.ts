// What can be read off the selection, while the measuring tool is in hand.
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { constraint, constraints, dimensionFor, Ids, type Pair } from './model'
import { useSketch } from './store'

export const useMeasure = defineStore('sketch-measure', () => {
  const sketch = useSketch()
  const readings = shallowRef<Schemas['ReadingView'][]>([])
  const line = ref<[Pair, Pair] | null>(null)

  watch(
    () => [sketch.tool, sketch.selected, sketch.drawing] as const,
    async ([tool, selected, drawing]) => {
      if (tool !== 'measure' || !selected.length) {
        readings.value = []
        line.value = null
        return
      }
      const own = selected.filter((id) => !constraints(drawing).some((c) => c.id === id))
      const found = await call('post', '/api/sketch/measure', { body: { drawing, selected: own } }).catch(() => null)
      if (selected !== sketch.selected) return
      readings.value = found?.readings ?? []
      line.value = (found?.line as [Pair, Pair] | null | undefined) ?? null
    },
  )

  /** A size that only reads out, on what is measured. */
  async function keep(): Promise<void> {
    const type = dimensionFor(sketch.drawing, sketch.selected)
    if (!type) return
    const c = constraint(new Ids(sketch.drawing).next('d'), type, [...sketch.selected], { reference: true })
    if (await sketch.apply({ ...sketch.drawing, constraints: [...constraints(sketch.drawing), c] })) sketch.selected = []
  }
  return { readings, line, keep }
})
