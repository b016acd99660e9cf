// What is free shown by moving it: each independent motion in turn, to and fro.
import { onUnmounted, shallowRef, watch } from 'vue'
import type { Drawing, Schemas } from '../api/client'
import { entities } from './model'
import { useSketch } from './store'

export interface Swing {
  motion: Schemas['MotionView']
  /** From -1 to 1. */
  share: number
}

export function displaced(d: Drawing, s: Swing, reach: number): Drawing {
  const k = s.share * reach
  return {
    ...d,
    entities: entities(d).map((e) => {
      const p = s.motion.points[e.id]
      if (e.type === 'point' && p) return { ...e, x: e.x + k * p[0], y: e.y + k * p[1] }
      const r = s.motion.radii[e.id]
      return e.type === 'circle' && r ? { ...e, radius: Math.max(e.radius + k * r, 1e-3) } : e
    }),
  }
}

/** The motion shown at this moment, or null. One second each, then the next. */
export function useWiggle() {
  const sketch = useSketch()
  const now = shallowRef<Swing | null>(null)
  let frame = 0
  watch(
    () => sketch.motions,
    (motions) => {
      cancelAnimationFrame(frame)
      now.value = null
      if (!motions.length) return
      const began = performance.now()
      const step = (time: number): void => {
        const seconds = Math.max(0, time - began) / 1000
        now.value = { motion: motions[Math.floor(seconds) % motions.length], share: Math.sin(2 * Math.PI * (seconds % 1)) }
        frame = requestAnimationFrame(step)
      }
      frame = requestAnimationFrame(step)
    },
  )
  onUnmounted(() => cancelAnimationFrame(frame))
  return now
}
