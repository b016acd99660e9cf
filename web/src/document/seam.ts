// What browser tests may ask: where a thing is on the screen, and whether work is going on.
// Loaded only when the address asks for it (?seam).
import { Ray, Vector3 } from 'three'
import { underWay } from '../api/client'
import { useAssembly } from '../assembly/store'
import { useEdited } from '../part/edited'
import { useSketch } from '../sketch/store'
import { Body, type Look } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import type { BodyMesh } from '../viewport/mesh'
import { useDocument } from './store'

export function installSeam(engine: Engine | null): void {
  const doc = useDocument()
  const edited = useEdited()
  const sketch = useSketch()
  const asm = useAssembly()
  const box = (): DOMRect => engine!.canvas.getBoundingClientRect()
  ;(window as unknown as { __test: object }).__test = {
    idle: () => !underWay() && !doc.building && !doc.saving && !edited.trying && !sketch.busy && !asm.building && !engine?.camera.flying,
    frames: () => engine?.frames ?? 0,
    bodies: () => engine?.count ?? 0,
    /** Geometries the graphics hold, and calls a picture takes. */
    uploads: () => engine?.renderer.info.memory.geometries ?? 0,
    draws: () => engine?.renderer.info.render.calls ?? 0,
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
          for (const [u, v] of [
            [1 / 3, 1 / 3],
            [0.1, 0.1],
            [0.8, 0.1],
            [0.1, 0.8],
            [0.5, 0.25],
            [0.25, 0.5],
          ])
            tries.push(
              p
                .clone()
                .multiplyScalar(1 - u - v)
                .addScaledVector(q, u)
                .addScaledVector(r, v),
            )
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
    /** Pixels that differ between equal bodies drawn in one go and each by itself, and how many
     * calls each picture took. */
    together: () => {
      const drawn = (): [Uint8ClampedArray, number] => {
        const { width, height } = engine!.canvas
        engine!.draw()
        const copy = new OffscreenCanvas(width, height).getContext('2d')!
        copy.drawImage(engine!.canvas, 0, 0)
        return [copy.getImageData(0, 0, width, height).data, engine!.renderer.info.render.calls]
      }
      const [one, few] = drawn()
      engine!.setTogether(false)
      const [each, many] = drawn()
      engine!.setTogether(true)
      let differ = 0
      for (let i = 0; i < one.length; i += 4) if ([0, 1, 2].some((k) => Math.abs(one[i + k] - each[i + k]) > 8)) differ++
      return { differ, of: one.length / 4, few, many }
    },
    bench: (triangles: number) => benchPicks(triangles),
    topology: (body: string) => engine?.body(body)?.spec.mesh.topology ?? null,
  }
}

/** Many separate cylinders of 576 triangles and two rims: a body of about `triangles` triangles. */
function manyCylinders(triangles: number): BodyMesh {
  const count = Math.ceil(triangles / 576)
  const side = 144
  const across = Math.ceil(Math.sqrt(count))
  const positions = new Float32Array(count * (side + 1) * 2 * 3 + count * 6)
  const index = new Uint32Array(count * 576 * 3)
  const edgePoints = new Float32Array(count * 2 * (side + 1) * 3)
  const faceStarts = new Uint32Array(count + 1)
  const edgeStarts = new Uint32Array(2 * count + 1)
  let v = 0
  let t = 0
  let e = 0
  for (let n = 0; n < count; n++) {
    const [cx, cy] = [(n % across) * 12, Math.floor(n / across) * 12]
    const first = v
    for (const z of [0, 8])
      for (let k = 0; k <= side; k++) {
        const a = (2 * Math.PI * k) / side
        positions.set([cx + 5 * Math.cos(a), cy + 5 * Math.sin(a), z], 3 * v++)
        edgePoints.set([cx + 5 * Math.cos(a), cy + 5 * Math.sin(a), z], 3 * e++)
      }
    positions.set([cx, cy, 0, cx, cy, 8], 3 * v)
    const [low, high] = [v, v + 1]
    v += 2
    for (let k = 0; k < side; k++) {
      const [a, b, c, d] = [first + k, first + k + 1, first + side + 1 + k, first + side + 2 + k]
      index.set([a, b, d, a, d, c, low, b, a, high, c, d], 3 * t)
      t += 4
    }
    faceStarts[n + 1] = t
    edgeStarts[2 * n + 1] = e - side - 1
    edgeStarts[2 * n + 2] = e
  }
  const normals = new Int8Array((positions.length / 3) * 4)
  return {
    key: 'bench',
    positions,
    normals,
    triangles: index,
    faceStarts,
    edgeStarts,
    edgePoints,
    topology: {
      faces: [],
      edges: Array.from({ length: 2 * count }, () => ({ kind: 'circle', faces: [], ends: [], at: [0, 0, 0], length: 1 })),
      vertices: [],
      picks: { names: [], face: [], edge: [], vertex: [] },
    },
  }
}

const PLAIN: Look = { style: 'shaded', fat: false, planes: [], corner: false, map: null, skins: null }

/** Median time of picking a face and an edge at random places, in ms. */
async function benchPicks(triangles: number): Promise<object> {
  const mesh = manyCylinders(triangles)
  const body = new Body({ id: 'bench', mesh, colour: '#999999' }, PLAIN)
  const across = Math.ceil(Math.sqrt(mesh.faceStarts.length - 1)) * 12
  const down = new Vector3(0.3, 0.4, -0.87).normalize()
  const ray = (): Ray => new Ray(new Vector3(Math.random() * across, Math.random() * across, 0).addScaledVector(down, -500), down.clone())
  body.hitFace(ray(), PLAIN)
  const median = (run: () => void): number => {
    const times = Array.from({ length: 101 }, () => {
      const began = performance.now()
      for (let k = 0; k < 5; k++) run()
      return (performance.now() - began) / 5
    })
    return times.sort((a, b) => a - b)[50]
  }
  const face = median(() => body.hitFace(ray(), PLAIN))
  const edge = median(() => body.hitEdge(ray(), 0.6, Infinity, PLAIN, false))
  body.dispose()
  return { face, edge, count: 101, triangles: mesh.triangles.length / 3 }
}
