import { Box3, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Camera, type ViewName } from './camera'

/** A small fixed-seed generator of numbers from 0 to 1. */
function numbers(seed: number): () => number {
  let s = seed
  return () => (s = (s * 16807) % 2147483647) / 2147483647
}
function camera(perspective: boolean, width = 900, tall = 600): Camera {
  const c = new Camera(() => {})
  c.resize(width, tall)
  c.perspective = perspective
  return c
}
const NAMES: ViewName[] = ['front', 'back', 'left', 'right', 'top', 'under', 'iso']

describe.each([false, true])('a camera, in perspective: %s', (perspective) => {
  it('draws every point where the ray through that place meets it', () => {
    const random = numbers(7)
    for (let i = 0; i < 200; i++) {
      const c = camera(perspective)
      c.turn(400 * random() - 200, 300 * random() - 150)
      c.target.set(50 * random(), 50 * random(), 50 * random())
      const p = new Vector3(40 * random(), 40 * random(), 40 * random())
      const ray = c.ray(...c.project(p))
      expect(ray.distanceToPoint(p)).toBeLessThan(1e-9)
    }
  })

  it('agrees with the projection the picture is drawn by', () => {
    const random = numbers(11)
    for (let i = 0; i < 50; i++) {
      const c = camera(perspective, 800, 500)
      c.turn(400 * random(), 300 * random() - 150)
      const p = new Vector3(60 * random() - 30, 60 * random() - 30, 60 * random() - 30)
      const drawn = p.clone().project(c.three)
      const [x, y] = c.project(p)
      expect(x).toBeCloseTo((drawn.x + 1) * 400, 6)
      expect(y).toBeCloseTo((1 - drawn.y) * 250, 6)
    }
  })

  it.each(NAMES)('fits any box into the pane from %s', (name) => {
    const random = numbers(3)
    for (let i = 0; i < 60; i++) {
      const c = camera(perspective, 300 + 900 * random(), 300 + 500 * random())
      c.view(name, false)
      const low = new Vector3(100 * random(), 100 * random(), 100 * random())
      const size = new Vector3(10 ** (3 * random()), 10 ** (3 * random()), 10 ** (3 * random()))
      c.fit(new Box3(low, low.clone().add(size)), false)
      expect(c.named()).toBe(name)
      let most = 0
      for (let k = 0; k < 8; k++) {
        const p = low.clone().add(size.clone().multiply(new Vector3(k & 1, (k >> 1) & 1, k >> 2)))
        const at = p.project(c.three)
        // In depth too: nothing lies behind the eye or beyond the far end.
        expect(Math.max(Math.abs(at.x), Math.abs(at.y), Math.abs(at.z))).toBeLessThan(1)
        most = Math.max(most, Math.abs(at.x), Math.abs(at.y))
      }
      // No more than a tenth of the pane stays empty round it.
      if (!perspective) expect(most).toBeGreaterThan(0.9)
    }
  })

  it('keeps what lies under the pointer there while zooming', () => {
    const c = camera(perspective)
    const place = (): Vector3 => {
      const ray = c.ray(700, 120)
      const towards = c.axes()[2]
      return ray.at(c.target.clone().sub(ray.origin).dot(towards) / ray.direction.dot(towards), new Vector3())
    }
    const before = place()
    for (const factor of [0.5, 0.8, 3, 1.4]) c.zoom(factor, 700, 120)
    expect(place().distanceTo(before)).toBeLessThan(1e-9)
  })

  it('stands again where it stood', () => {
    const c = camera(perspective)
    c.turn(130, -40)
    c.shift(15, 22)
    const stood = c.stand()
    c.view('top', false)
    c.perspective = !perspective
    c.go(stood, false)
    const now = c.stand()
    expect(now.perspective).toBe(perspective)
    expect(new Vector3(...now.from).distanceTo(new Vector3(...stood.from))).toBeLessThan(1e-9)
    expect(now.height).toBe(stood.height)
  })
})
