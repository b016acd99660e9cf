import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { dice } from '../testing/server'
import { Camera } from '../viewport/camera'
import { edgesInPlane } from './beneath'
import type { Pair } from './model'
import { usePlane } from './plane'
import { useSketch } from './store'
import { useDocument } from '../document/store'
import { Server } from '../testing/server'

const roll = dice(11)
/** A plane anywhere, with its axes square to each other. */
function somewhere(): { origin: number[]; x: number[]; y: number[]; z: number[] } {
  const z = new Vector3(roll(), roll(), roll()).normalize()
  const x = new Vector3(roll(), roll(), roll()).cross(z).normalize()
  return {
    origin: [30 * roll(), 30 * roll(), 30 * roll()],
    x: x.toArray(),
    y: z.clone().cross(x).toArray(),
    z: z.toArray(),
  }
}
const at = (f: ReturnType<typeof somewhere>, [u, v]: Pair, w = 0): number[] =>
  f.origin.map((o, k) => o + u * f.x[k] + v * f.y[k] + w * f.z[k])

describe('edges of the model in the plane of a sketch', () => {
  it('are those that lie in it, told in its own coordinates', () => {
    for (let k = 0; k < 50; k++) {
      const f = somewhere()
      const [a, b, c]: Pair[] = [0, 1, 2].map(() => [20 * roll(), 20 * roll()])
      const points = [at(f, a), at(f, b), at(f, b), at(f, c, 3), at(f, a), at(f, b, 5e-5), at(f, a), at(f, b, 1e-3)].flat()
      const mesh = { edgePoints: new Float64Array(points), edgeStarts: new Uint32Array([0, 2, 4, 6, 8]), topology: {} }
      const found = edgesInPlane([{ id: 'b1', mesh, colour: '' } as never], f as never)
      expect(found.length).toBe(2)
      const [p, q] = found[0].run
      expect(Math.hypot(p[0] - a[0], p[1] - a[1]) + Math.hypot(q[0] - b[0], q[1] - b[1])).toBeLessThan(1e-9)
    }
  })
})

describe('the sketch plane in a pane', () => {
  it('leads from the plane to the pixel and back, however one looks at it', () => {
    new Server()
    const doc = useDocument()
    const sketch = useSketch()
    for (let k = 0; k < 40; k++) {
      const f = somewhere()
      doc.build = { bodies: [], steps: [{ id: 's1', sketch: { frame: f } }] } as never
      sketch.step = 's1'
      const camera = new Camera(() => {})
      camera.resize(900, 600)
      camera.turn(300 * roll(), 100 * roll())
      const { toPane, toPlane, px } = usePlane({ engine: { camera } as never, tick: k })
      const p: Pair = [40 * roll(), 40 * roll()]
      const seen = camera.project(new Vector3(...at(f, p)))
      const drawn = toPane(p)
      expect(Math.hypot(drawn[0] - seen[0], drawn[1] - seen[1])).toBeLessThan(1e-6)
      // Seen from the edge there is no way back.
      if (px.value < 0.3) continue
      const back = toPlane(...drawn)
      expect(Math.hypot(back[0] - p[0], back[1] - p[1])).toBeLessThan(1e-6)
    }
  })
})
