import { InstancedMesh, Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Body, type BodySpec, type Look } from './body'
import { Batches } from './instances'
import type { BodyMesh } from './mesh'

const LOOK: Look = { style: 'shaded', fat: false, planes: [], corner: false, map: null, skins: null }

function triangle(key: string): BodyMesh {
  return {
    key,
    positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]),
    normals: new Int8Array(12),
    triangles: new Uint32Array([0, 1, 2]),
    faceStarts: new Uint32Array([0, 1]),
    edgeStarts: new Uint32Array([0, 2]),
    edgePoints: new Float32Array([0, 0, 0, 1, 0, 0]),
    topology: {
      faces: [{ name: 'f', kind: 'plane', area: 0.5, at: [0, 0, 0], origin: [0, 0, 0], neighbours: [] }],
      edges: [{ kind: 'line', faces: [0], ends: [], at: [0.5, 0, 0], length: 1 }],
      vertices: [],
      picks: { names: [], face: [], edge: [], vertex: [] },
    },
  }
}
const place = (x: number): number[] => new Matrix4().makeTranslation(x, 0, 0).toArray()
const screw = triangle('screw')
const body = (id: string, more: Partial<BodySpec> = {}, look = LOOK): Body =>
  new Body({ id, mesh: screw, colour: '#808080', matrix: place(Number(id)), ...more }, look)
const drawn = (b: Batches): InstancedMesh[] => b.group.children.filter((c): c is InstancedMesh => c instanceof InstancedMesh)
function placeOf(mesh: InstancedMesh, n: number): number {
  const m = new Matrix4()
  mesh.getMatrixAt(n, m)
  return new Vector3().setFromMatrixPosition(m).x
}

describe('equal bodies', () => {
  it('are drawn in one go, on the one geometry of their mesh, each in its place', () => {
    const batches = new Batches()
    const bodies = ['1', '2', '3'].map((id) => body(id))
    batches.lay([...bodies, new Body({ id: '9', mesh: triangle('nut'), colour: '#333' }, LOOK)], LOOK)
    const [mesh] = drawn(batches)
    expect(drawn(batches)).toHaveLength(1)
    expect(mesh.count).toBe(3)
    expect(mesh.geometry).toBe(bodies[0].shape.faces)
    expect([0, 1, 2].map((n) => placeOf(mesh, n))).toEqual([1, 2, 3])
    expect(bodies.map((b) => b.faces.visible)).toEqual([false, false, false])
  })

  it('one that moves takes its instance along, and only that', () => {
    const batches = new Batches()
    const bodies = ['1', '2'].map((id) => body(id))
    batches.lay(bodies, LOOK)
    bodies[1].group.matrix.fromArray(place(40))
    batches.move('2')
    batches.move('nobody')
    expect([0, 1].map((n) => placeOf(drawn(batches)[0], n))).toEqual([1, 40])
  })

  it('those with something of their own stand alone, and all do once the batches are cleared', () => {
    const batches = new Batches()
    const own = [body('1', { ghost: true }), body('2', { opacity: 0.5 }), body('3', { paints: [{ face: 0, colour: '#f00' }] }), body('4')]
    batches.lay(own, LOOK)
    expect(drawn(batches)).toHaveLength(0)
    const two = ['5', '6'].map((id) => body(id))
    batches.lay(two, LOOK)
    batches.clear()
    expect(two.map((b) => b.faces.visible)).toEqual([true, true])
    expect(batches.group.children).toHaveLength(0)
  })

  it('are not drawn together where one shines through the other', () => {
    const look: Look = { ...LOOK, style: 'seethrough' }
    const batches = new Batches()
    batches.lay(
      ['1', '2'].map((id) => body(id, {}, look)),
      look,
    )
    expect(drawn(batches)).toHaveLength(0)
  })

  it('a shape is given back to the graphics when the last body that shows it goes', () => {
    let gone = 0
    const mesh = triangle('pin')
    const [a, b] = ['1', '2'].map((id) => new Body({ id, mesh, colour: '#888' }, LOOK))
    a.shape.faces.addEventListener('dispose', () => gone++)
    a.dispose()
    expect(gone).toBe(0)
    b.dispose()
    expect(gone).toBe(1)
  })
})
