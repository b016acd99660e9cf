// What browser tests may ask: where a thing is on the screen, and whether work is going on.
// Loaded only when the address asks for it (?seam).
import { Vector3 } from 'three'
import { useAssembly } from '../assembly/store'
import { useDraft } from '../part/draft'
import { useSketch } from '../sketch/store'
import type { Engine } from '../viewport/engine'
import { useDocument } from './store'

export function installSeam(engine: Engine | null): void {
  const doc = useDocument()
  const draft = useDraft()
  const sketch = useSketch()
  const asm = useAssembly()
  const box = (): DOMRect => engine!.canvas.getBoundingClientRect()
  ;(window as unknown as { __test: object }).__test = {
    idle: () => !doc.building && !doc.saving && !draft.trying && !sketch.busy && !asm.building,
    frames: () => engine?.frames ?? 0,
    project: (x: number, y: number, z: number) => {
      const [px, py] = engine!.camera.project(new Vector3(x, y, z))
      return [Math.round(px + box().left), Math.round(py + box().top)]
    },
    /** A pixel where picking `kind` really gives that thing, or null when it is hidden. */
    spot: (body: string, kind: 'face' | 'edge', index: number) => {
      const found = engine?.body(body)
      if (!found) return null
      const m = found.spec.mesh
      const b = box()
      const tries: Vector3[] = []
      if (kind === 'face')
        for (let t = m.faceStarts[index]; t < m.faceStarts[index + 1]; t++) {
          const [p, q, r] = [0, 1, 2].map((k) => new Vector3().fromArray(m.positions, 3 * m.triangles[3 * t + k]))
          for (const [u, v] of [[1 / 3, 1 / 3], [0.1, 0.1], [0.8, 0.1], [0.1, 0.8], [0.5, 0.25], [0.25, 0.5]])
            tries.push(p.clone().multiplyScalar(1 - u - v).addScaledVector(q, u).addScaledVector(r, v))
        }
      else
        for (let i = m.edgeStarts[index]; i + 1 < m.edgeStarts[index + 1]; i++)
          for (const s of [0.5, 0.3, 0.7])
            tries.push(new Vector3().fromArray(m.edgePoints, 3 * i).lerp(new Vector3().fromArray(m.edgePoints, 3 * i + 3), s))
      for (const p of tries) {
        const [x, y] = engine!.camera.project(p.applyMatrix4(found.group.matrixWorld)).map(Math.round)
        if (x < 2 || y < 2 || x > b.width - 2 || y > b.height - 2) continue
        const hit = engine!.pick(x, y, kind)
        if (hit && hit.body === body && hit.kind === kind && hit.index === index) return [x + Math.round(b.left), y + Math.round(b.top)]
      }
      return null
    },
    topology: (body: string) => engine?.body(body)?.spec.mesh.topology ?? null,
  }
}
