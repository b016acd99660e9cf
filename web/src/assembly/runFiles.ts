// What a run found, taken out: curves as a table, the motion as an animated GLB, pictures in a ZIP.
import {
  AnimationClip,
  BufferAttribute,
  Group,
  type KeyframeTrack,
  Matrix4,
  Mesh,
  MeshStandardMaterial,
  Quaternion,
  QuaternionKeyframeTrack,
  Vector3,
  VectorKeyframeTrack,
} from 'three'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import { faceGeometry } from '../viewport/shape'
import { saveBlob } from '../ui/files'
import { assemblyBodies } from '../document/bodies'
import { inOwn, type Run, type RunResult, type Series, titleOf, type useRuns } from './runs'
import { type AssemblyView, matrixOf, multiply, type Placement, standing, useAssembly } from './store'

/** Pictures at the most: a minute of a film. */
const PICTURES = 240

/** A field of a table; what begins like a formula is told to be text. */
function field(text: string): string {
  const plain = /^[=+\-@\t\r]/.test(text) && !/^-?[\d.]/.test(text) ? `'${text}` : text
  return /[",\n]/.test(plain) ? `"${plain.replaceAll('"', '""')}"` : plain
}
/** All curves of a run, one to a column, in the units of the document. */
export function csvOf(times: number[], series: Series[]): string {
  const columns = series.map((s) => ({ head: `${titleOf(s)} [${inOwn(s).unit}]`, values: inOwn(s).values }))
  const rows = times.map((t, k) => [t, ...columns.map((c) => c.values[k])].map((v) => Number(v.toPrecision(9))).join(','))
  return [['time [s]', ...columns.map((c) => c.head)].map(field).join(','), ...rows].join('\r\n') + '\r\n'
}

/** Matrices of all leaves at a frame. */
function leavesAt(built: AssemblyView, frame: Record<string, Placement>): Map<string, number[]> {
  const moved = Object.fromEntries(
    Object.entries(frame).map(([id, placement]) => {
      const top = id.split('/')[0]
      const own = matrixOf(placement)
      return [id, { matrix: top === id ? own : multiply(matrixOf(frame[top]), own) }]
    }),
  )
  return standing(built, moved)
}

/** Bodies with the motion as tracks, in metres and with Y up as glTF has it. */
export function animated(
  bodies: BodySpec[],
  built: AssemblyView,
  result: Pick<RunResult, 'times' | 'frames'>,
  name: string,
): { scene: Group; clip: AnimationClip } {
  const scene = new Group()
  scene.name = name
  scene.scale.setScalar(0.001)
  scene.rotation.x = -Math.PI / 2
  const frames = result.frames.map((f) => leavesAt(built, f))
  const tracks: KeyframeTrack[] = []
  for (const [n, spec] of bodies.entries()) {
    const geometry = faceGeometry(spec.mesh)
    const normals = geometry.getAttribute('normal')
    const loose = new Float32Array(normals.count * 3)
    for (let i = 0; i < normals.count; i++) {
      const v = new Vector3(normals.getX(i), normals.getY(i), normals.getZ(i)).normalize()
      v.toArray(loose, 3 * i)
    }
    geometry.setAttribute('normal', new BufferAttribute(loose, 3))
    const mesh = new Mesh(geometry, new MeshStandardMaterial({ color: spec.colour, roughness: 0.6 }))
    mesh.name = `body_${n}`
    const leaf = built.leaves.find((l) => l.id === spec.id)
    mesh.userData = { title: leaf?.names.join(' / ') ?? spec.id }
    const places: number[] = []
    const turns: number[] = []
    let last = new Quaternion()
    for (const frame of frames) {
      const [p, q, s] = [new Vector3(), new Quaternion(), new Vector3()]
      const at = frame.get(spec.id)
      if (at) new Matrix4().fromArray(at).decompose(p, q, s)
      // The short way round between two frames.
      if (q.dot(last) < 0) q.set(-q.x, -q.y, -q.z, -q.w)
      last = q
      places.push(...p.toArray())
      turns.push(...q.toArray())
      if (frame === frames[0]) {
        mesh.position.copy(p)
        mesh.quaternion.copy(q)
        mesh.scale.copy(s)
      }
    }
    scene.add(mesh)
    const still = (values: number[], size: number): boolean => values.every((v, k) => Math.abs(v - values[k % size]) < 1e-9)
    if (!still(places, 3)) tracks.push(new VectorKeyframeTrack(`${mesh.name}.position`, result.times, places))
    if (!still(turns, 4)) tracks.push(new QuaternionKeyframeTrack(`${mesh.name}.quaternion`, result.times, turns))
  }
  return { scene, clip: new AnimationClip(name, result.times.at(-1) ?? 0, tracks) }
}

async function glb(built: AssemblyView, result: RunResult, name: string): Promise<Blob> {
  const { GLTFExporter } = await import('three/addons/exporters/GLTFExporter.js')
  const { scene, clip } = animated(await assemblyBodies(built), built, result, name)
  const file = await new GLTFExporter().parseAsync(scene, { binary: true, animations: [clip] })
  return new Blob([file as ArrayBuffer], { type: 'model/gltf-binary' })
}

async function pictures(engine: Engine, runs: ReturnType<typeof useRuns>, result: RunResult): Promise<Blob> {
  const { zipSync } = await import('fflate')
  const files: Record<string, [Uint8Array, { level: 0 }]> = {}
  const step = Math.max(1, Math.ceil(result.frames.length / PICTURES))
  const { clientWidth: width, clientHeight: height } = engine.canvas
  for (let k = 0; k < result.frames.length; k += step) {
    runs.show(k)
    // The picture follows in the next frames.
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
    const blob = await engine.picture(Math.round(width), Math.round(height))
    files[`${String(k).padStart(4, '0')}.png`] = [new Uint8Array(await blob.arrayBuffer()), { level: 0 }]
  }
  return new Blob([zipSync(files) as Uint8Array<ArrayBuffer>], { type: 'application/zip' })
}

/** A file of a run handed to the browser. */
export async function takeOut(what: string, run: Run, runs: ReturnType<typeof useRuns>): Promise<void> {
  const [result, built] = [runs.result, useAssembly().built]
  if (!result || !built) return
  const name = run.name.replace(/[^\w -]+/g, '_')
  if (what === 'csv') saveBlob(new Blob([csvOf(result.times, runs.series)], { type: 'text/csv' }), `${name}.csv`)
  else if (what === 'glb') saveBlob(await glb(built, result, run.name), `${name}.glb`)
  else if (runs.engine) saveBlob(await pictures(runs.engine, runs, result), `${name}.zip`)
}
