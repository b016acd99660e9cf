import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { createPinia, setActivePinia } from 'pinia'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { useDocument } from '../document/store'
import { opened, told } from '../testing/document'
import { dice, refused, Server, settled } from '../testing/server'
import { inverseRigid, matrixOf, multiply, placementOf, shifted, standing, useAssembly } from './store'

const roll = dice(3)
const pose = (): { p: [number, number, number]; q: [number, number, number, number] } => {
  const q = [roll(), roll(), roll(), roll()]
  const n = Math.hypot(...q)
  return { p: [90 * roll(), 90 * roll(), 90 * roll()], q: q.map((v) => v / n) as [number, number, number, number] }
}
const off = (a: number[], b: number[]): number => Math.max(...a.map((v, i) => Math.abs(v - b[i])))

describe('poses', () => {
  it('are the matrices the picture is drawn by', () => {
    for (let k = 0; k < 100; k++) {
      const p = pose()
      const [w, x, y, z] = p.q
      const drawn = new Matrix4().compose(new Vector3(...p.p), new Quaternion(x, y, z, w), new Vector3(1, 1, 1))
      expect(off(matrixOf(p), drawn.toArray())).toBeLessThan(1e-9)
    }
  })
  it('follow each other and undo themselves, as matrices do', () => {
    const unit = new Matrix4().toArray()
    for (let k = 0; k < 100; k++) {
      const [a, b] = [matrixOf(pose()), matrixOf(pose())]
      const drawn = new Matrix4().fromArray(a).multiply(new Matrix4().fromArray(b)).toArray()
      expect(off(multiply(a, b), drawn)).toBeLessThan(1e-9)
      expect(off(multiply(inverseRigid(a), a), unit) + off(multiply(a, inverseRigid(a)), unit)).toBeLessThan(1e-9)
    }
  })
})

describe('copies while things move', () => {
  const rigid = (m: number[]): number => off(multiply(m, inverseRigid(m)), new Matrix4().toArray())
  const mirror = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 12, 0, 0, 1]
  it('go with their original by the motion, that carried along by what it is about', () => {
    for (let n = 0; n < 50; n++) {
      const [screw, plate, inner] = [pose(), pose(), pose()].map(matrixOf)
      // On the other side of a plane of the plate, made itself again by mirroring its own x.
      const across = (at: number[]): number[] => multiply(at, multiply(mirror, inverseRigid(at)))
      const own = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
      const where = (p: number[], s: number[]): number[] => multiply(across(p), multiply(s, multiply(own, inner)))
      const built = {
        components: [
          { id: 'c1', matrix: plate },
          { id: 'c2', matrix: screw },
        ],
        leaves: [
          { id: 'x', member: 'c2', carried: [{ about: 'c1', matrix: across(plate) }], matrix: where(plate, screw) },
          { id: 'y', member: 'c2', carried: [{ about: null, matrix: matrixOf({ p: [5, 0, 0], q: [1, 0, 0, 0] }) }], matrix: screw },
        ],
      } as never
      const [s, p] = [matrixOf(pose()), matrixOf(pose())]
      const now = standing(built, { c1: { matrix: p }, c2: { matrix: s } })
      expect(off(now.get('x')!, where(p, s))).toBeLessThan(1e-7)
      expect(rigid(now.get('x')!)).toBeLessThan(1e-9)
      expect(off(standing(built, { c1: { matrix: p } }).get('x')!, where(p, screw))).toBeLessThan(1e-7)
      expect(off(standing(built, { c1: { matrix: p } }).get('y')!, screw)).toBe(0)
      expect(off(matrixOf(placementOf(s)), s)).toBeLessThan(1e-9)
    }
  })
})

describe('an assembly taken apart', () => {
  it('has copies come off as their originals do, turned as they are, and all else stay', () => {
    const quarter = [0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
    const at = (x: number): number[] => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, 0, 1]
    const leaves = [
      { id: 'a', component: 'c1', carried: [] },
      { id: 'b', component: 'c2', carried: [] },
      { id: 'c', component: 'c2_r3_2', carried: [{ about: null, matrix: quarter }] },
    ]
    const stands = new Map(leaves.map((l, k) => [l.id, at(k)]))
    const found = shifted({ leaves } as never, stands, new Map([['c2', [5, 0, 2]]]))
    expect([...found].map(([id, m]) => [id, ...m.slice(12, 15)])).toEqual([
      ['a', 0, 0, 0],
      ['b', 6, 0, 2],
      ['c', 2, 5, 2],
    ])
    expect(shifted({ leaves } as never, stands, new Map())).toBe(stands)
  })
  it('comes off step by step', () => {
    setActivePinia(createPinia())
    const asm = useAssembly()
    asm.apart = [
      { components: ['c3'], by: [0, 0, 8] },
      { components: ['c1', 'c2'], by: [0, 4, 0] },
    ]
    const off = (share: number): [string, number[]][] => ((asm.share = share), [...asm.shifts])
    expect(off(0)).toEqual([])
    expect(off(0.25)).toEqual([['c3', [0, 0, 4]]])
    expect(off(0.75)).toEqual([
      ['c3', [0, 0, 8]],
      ['c1', [0, 2, 0]],
      ['c2', [0, 2, 0]],
    ])
    asm.close()
    expect(asm.shifts.size).toBe(0)
  })
})

describe('an assembly put together', () => {
  const arm = pose()
  const inside = pose()
  const joint = {
    id: 'j1',
    coordinates: [
      { name: 'angle', value: 10, unit: 'deg' },
      { name: 'slide', value: 0, unit: 'mm' },
    ],
  }
  const built = {
    components: [
      { id: 'c1', matrix: matrixOf(arm) },
      { id: 'c2', matrix: matrixOf(pose()) },
    ],
    leaves: [
      { id: 'c1/a', component: 'c1', member: 'c1', carried: [], matrix: multiply(matrixOf(arm), matrixOf(inside)) },
      { id: 'c2', component: 'c2', member: 'c2', carried: [], matrix: matrixOf(pose()) },
    ],
    joints: [joint],
  }
  const motions = { angle: { value: '10 deg', least: '0 deg' }, slide: { value: '0 mm' } }
  let server: Server
  async function here(): Promise<ReturnType<typeof useAssembly>> {
    await opened(server, { kind: 'assembly', components: [], joints: [{ id: 'j1', kind: 'cylindrical', motions }] }, { kind: 'assembly' })
    const asm = useAssembly()
    await asm.rebuild()
    server.asked.length = 0
    return asm
  }
  beforeEach(() => {
    server = new Server().on('get /api/documents/*/assembly', built)
  })
  afterEach(() => {
    useAssembly().close()
    useDocument().close()
  })

  it('moves every leaf with its component, stiff within it', async () => {
    const asm = await here()
    expect(off(asm.matrices.get('c1/a')!, built.leaves[0].matrix)).toBe(0)
    const to = pose()
    asm.show({ c1: to })
    expect(off(asm.matrices.get('c1/a')!, multiply(matrixOf(to), matrixOf(inside)))).toBeLessThan(1e-9)
    expect(off(asm.matrices.get('c2')!, built.leaves[1].matrix)).toBe(0)
  })

  it('is driven from where things stand, one wish at a time, and kept where it came to', async () => {
    const asm = await here()
    const [one, two] = [pose(), pose()]
    const moved = (p: object, angle: number): object => ({
      holds: true,
      stopped: null,
      components: [{ id: 'c1', matrix: matrixOf(one), placement: p }],
      joints: { j1: { angle, slide: 0 } },
    })
    server.on('post /api/documents/*/drive', ({ body }: { body: { values: { value: number } } }) =>
      moved(body.values.value > 30 ? two : one, 42.123456),
    )
    for (const value of [20, 25, 40]) asm.move({ values: { value } } as never)
    await settled(40)
    expect(server.asked.map((a) => (a.body as { values: { value: number } }).values.value)).toEqual([20, 40])
    expect((server.asked[1].body as { placements: object }).placements).toEqual({ c1: one })
    server.on('post /api/documents/*/commands', told(2, { kind: 'assembly' }, { kind: 'assembly' }))
    await asm.keepValue('j1', 'angle', 40)
    expect((server.last('/commands').body as { commands: object[] }).commands).toEqual([
      { do: 'place_components', placements: { c1: two } },
      { do: 'edit_joint', id: 'j1', fields: { motions: { ...motions, angle: { value: '42.1235 deg', least: '0 deg' } } } },
    ])
  })

  it('holds what is held elsewhere where it was taken along to, and leaves the rest', async () => {
    const held = (id: string, value: string | null): object => ({
      id,
      kind: 'revolute',
      motions: { angle: { value, least: null, most: null } },
    })
    const joints = [held('j1', '10 deg'), held('j2', '0 deg'), held('j3', null), held('j4', '5 deg')]
    const turn = (id: string, value: number): object => ({ id, coordinates: [{ name: 'angle', value, unit: 'deg' }] })
    server.on('get /api/documents/*/assembly', { ...built, joints: [turn('j1', 10), turn('j2', 0), turn('j3', 7), turn('j4', 5)] })
    await opened(server, { kind: 'assembly', components: [], joints }, { kind: 'assembly' })
    const asm = useAssembly()
    await asm.rebuild()
    server.on('post /api/documents/*/drive', {
      holds: true,
      stopped: null,
      components: [],
      joints: { j1: { angle: 30 }, j2: { angle: -10 }, j3: { angle: 27 }, j4: { angle: 5 } },
    })
    asm.move({ joint: 'j1', value: 30 })
    await settled()
    server.on('post /api/documents/*/commands', told(2, { kind: 'assembly', joints }, { kind: 'assembly' }))
    await asm.keepValue('j1', 'angle', 30)
    const sent = (server.last('/commands').body as { commands: { id?: string; fields?: { motions: object } }[] }).commands
    expect(sent.slice(1).map((c) => [c.id, c.fields?.motions])).toEqual([
      ['j1', { angle: { value: '30 deg', least: null, most: null } }],
      ['j2', { angle: { value: '-10 deg', least: null, most: null } }],
    ])
  })

  it('stays where it last held, and says what stopped it', async () => {
    const asm = await here()
    server.on('post /api/documents/*/drive', { holds: true, stopped: 'Hinge is at its limit', components: [], joints: {} })
    asm.move({})
    await settled()
    expect([asm.stopped, asm.values.j1]).toEqual(['Hinge is at its limit', { angle: 10, slide: 0 }])
    server.on('post /api/documents/*/drive', { holds: false, components: [{ id: 'c1' }], joints: { j1: { angle: 99 } } })
    asm.move({})
    await settled()
    expect(asm.values.j1.angle).toBe(10)
    server.on('post /api/documents/*/drive', refused(500, 'the solver went down'))
    asm.move({})
    await settled()
    expect(useDocument().failure?.text).toBe('the solver went down')
  })

  it('keeps nothing where nothing moved', async () => {
    const asm = await here()
    await asm.keepPlaces()
    expect(server.asked).toEqual([])
  })
})
