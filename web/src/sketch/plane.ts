// The sketch plane as the pane shows it: parallel projection makes it an affine picture.
import { Vector3 } from 'three'
import { computed, type ComputedRef } from 'vue'
import type { Engine } from '../viewport/engine'
import type { Pair } from './model'
import { useSketch } from './store'

export interface Plane {
  /** Plane (mm) to pane (pixels): a b c d e f. */
  affine: ComputedRef<[number, number, number, number, number, number]>
  /** Pixels to the mm. */
  px: ComputedRef<number>
  toPane: (p: Pair) => Pair
  toPlane: (x: number, y: number) => Pair
}

export function usePlane(props: { engine: Engine; tick: number }): Plane {
  const sketch = useSketch()
  const affine = computed<[number, number, number, number, number, number]>(() => {
    void props.tick
    const f = sketch.frame
    if (!f) return [1, 0, 0, -1, 0, 0]
    const o = new Vector3(...f.origin)
    const [ox, oy] = props.engine.camera.project(o)
    const [ax, ay] = props.engine.camera.project(o.clone().add(new Vector3(...f.x)))
    const [bx, by] = props.engine.camera.project(o.clone().add(new Vector3(...f.y)))
    return [ax - ox, ay - oy, bx - ox, by - oy, ox, oy]
  })
  const px = computed(() => Math.sqrt(Math.abs(affine.value[0] * affine.value[3] - affine.value[1] * affine.value[2])) || 1)
  const toPane = (p: Pair): Pair => {
    const [a, b, c, d, e, f] = affine.value
    return [a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f]
  }
  const toPlane = (x: number, y: number): Pair => {
    const [a, b, c, d, e, f] = affine.value
    const det = a * d - b * c || 1e-9
    const u = x - e
    const v = y - f
    return [(d * u - c * v) / det, (a * v - b * u) / det]
  }
  return { affine, px, toPane, toPlane }
}
