// Moving by what is typed, share copies, parts made in place: the stores behind their cards.
import { beforeEach, afterEach, describe, expect, it } from 'vitest'
import { useDocument } from '../document/store'
import { placeOf } from '../part/inplace'
import { opened } from '../testing/document'
import { refused, Server, settled } from '../testing/server'
import { useMaking } from './inplace'
import { useMoving } from './moving'
import { useSharing } from './sharing'
import { useAssembly } from './store'

const at = (x: number, y: number): number[] => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, 0, 1]
const ASSEMBLY = {
  kind: 'assembly',
  components: [
    { id: 'c1', name: 'Base', anchored: true, document: 'p1' },
    { id: 'c2', name: 'Left', document: 'p2' },
    { id: 'c3', name: 'Right', document: 'p2' },
    { id: 'c4', name: 'Part', document: 'p3' },
  ],
  joints: [],
  shares: [{ id: 'k9', name: 'Foundry', rules: [{ by: 'name', what: 'd*', level: 'out' }], level: 'box', small: 5, looks: false }],
  last_id: 9,
}
const BUILT = {
  components: [
    { id: 'c1', freedom: 0, matrix: at(0, 0) },
    { id: 'c2', freedom: 6, matrix: at(10, 0) },
    { id: 'c3', freedom: 6, matrix: at(30, 0) },
    { id: 'c4', freedom: 6, matrix: at(0, 50) },
  ],
  leaves: [],
  joints: [],
  properties: {},
}
const STALE = {
  component: 'c4',
  name: 'Part',
  document: 'p3',
  step: 's1',
  fresh: false,
  sources: [{ title: 'Base', state: 'changed', text: 'Base has moved' }],
}
let server: Server

beforeEach(async () => {
  server = new Server()
    .on('get /api/documents/*/assembly', BUILT)
    .on('get /api/documents/*/in-place', { parts: [STALE] })
    .on('post /api/documents/*/share/look', { rows: [], leaves: [] })
  useMaking()
  await opened(server, ASSEMBLY, { kind: 'assembly' })
  await useAssembly().rebuild()
  await settled()
  server.asked.length = 0
})
afterEach(() => {
  useMoving().discard()
  useSharing().close()
  useAssembly().close()
  useDocument().close()
})

describe('moving by what is typed', () => {
  it('turns all that is chosen about its middle, leaves what is anchored, and is looked at first', () => {
    const [moving, asm] = [useMoving(), useAssembly()]
    asm.selected = ['c1', 'c2', 'c3']
    moving.begin()
    expect([moving.chosen, moving.still]).toEqual([['c2', 'c3'], ['c1']])
    moving.rotate(90, 'Z')
    moving.set(2, 7)
    const live = asm.live!
    expect(Object.keys(live)).toEqual(['c2', 'c3'])
    // Ten to either side of the middle (20, 0): turned, one below and one above it.
    live.c2.placement.p.forEach((v, k) => expect(v).toBeCloseTo([20, -10, 7][k], 9))
    live.c3.placement.p.forEach((v, k) => expect(v).toBeCloseTo([20, 10, 7][k], 9))
    live.c2.placement.q.forEach((v, k) => expect(v).toBeCloseTo([Math.SQRT1_2, 0, 0, Math.SQRT1_2][k], 9))
    moving.discard()
    expect(asm.live).toBeNull()
    expect(server.asked).toEqual([])
  })
})

describe('a share copy', () => {
  it('changes by hand become one rule for each level, and a component is in one of them', async () => {
    const sharing = useSharing()
    sharing.begin()
    sharing.byHand('c2', 'box')
    sharing.byHand('c3', 'box')
    expect(sharing.wish.rules).toEqual([{ by: 'pick', what: '', components: ['c2', 'c3'], level: 'box' }])
    sharing.byHand('c2', 'exact')
    expect(sharing.wish.rules.map((r) => [r.level, r.components])).toEqual([
      ['box', ['c3']],
      ['exact', ['c2']],
    ])
    sharing.byHand('c3', 'exact')
    expect(sharing.wish.rules.map((r) => [r.level, r.components])).toEqual([['exact', ['c2', 'c3']]])
  })
  it('kept by name is taken as it was', () => {
    const sharing = useSharing()
    sharing.take('k9')
    expect(sharing.name).toBe('Foundry')
    expect(sharing.wish).toEqual({ rules: ASSEMBLY.shares[0].rules, level: 'box', small: 5, looks: false })
  })
})

describe('parts made in place', () => {
  it('are asked after whenever the assembly is put together, and named out of date', async () => {
    const making = useMaking()
    expect(making.status.map((s) => [s.name, s.fresh])).toEqual([['Part', false]])
    server.on('post /api/documents/*/in-place/look', { before: 5, after: 7, troubles: [], left: [] })
    await making.look(making.status[0])
    expect(making.looks[making.keyOf(making.status[0])].after).toBe(7)
    server.on('get /api/documents/*/in-place', { parts: [{ ...STALE, fresh: true }] })
    server.on('post /api/documents/*/in-place/renew', { part: {}, left: [] })
    await making.renew(making.status[0])
    await settled()
    expect(making.status[0].fresh).toBe(true)
    expect(making.looks).toEqual({})
  })
  it('say what went wrong and lose nothing', async () => {
    const making = useMaking()
    making.begin()
    // The name is free: there is a component called Part already.
    expect(making.name).toBe('Part 2')
    server.on('post /api/documents/*/in-place', refused(422, 'the origin cannot lie there'))
    await making.keep()
    expect(making.open).toBe(true)
    expect(useDocument().failure?.text).toBe('the origin cannot lie there')
  })
  it('tell where they stand in the address', () => {
    expect(placeOf('d12.c4')).toEqual({ assembly: 'd12', component: 'c4' })
    expect([placeOf(undefined), placeOf('d12'), placeOf(['a.b'])]).toEqual([null, null, null])
  })
})
