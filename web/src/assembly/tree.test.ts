import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { refused, Server, settled } from '../testing/server'
import type { BodySpec } from '../viewport/body'
import ComponentTree from './ComponentTree.vue'
import { makerOf, originalOf } from './copyNames'
import { useAssembly } from './store'
import { rowsOf, useTree, within } from './tree'

const leaf = (id: string, names: string[], plain = '#111111', document = ''): never => {
  const path = id.split('/')
  return { id, component: path[0], path: path.slice(1, -1), body: path.at(-1), names, colour: '#999999', plain, document } as never
}
const LEAVES = [
  leaf('c1/b', ['Stand']),
  leaf('c2/c7/b', ['Door', 'Frame']),
  leaf('c2/c7/b2', ['Door', 'Frame']),
  leaf('c2/c8/c1/b', ['Door', 'Hinge', 'Pin'], '#222222', 'p9'),
  leaf('c2/c8/c2/b', ['Door', 'Hinge', 'Ring']),
]
const COMPONENTS = [
  { id: 'c1', name: 'Stand', anchored: true, tag: 'A1', document: 'p1' },
  { id: 'c2', name: 'Door', document: 'a2' },
  { id: 'c3', name: 'Gone', document: 'x' },
]
const SAID = { p1: { Supplier: 'Own make' }, a2: { Supplier: 'Hinges Ltd' }, p9: { Supplier: 'Pins & Co', Coating: 'zinc' } }
const bodies = LEAVES.map((l) => ({ id: (l as { id: string }).id, colour: '#999999' }) as BodySpec)
let server: Server
let drawn: Drawn | null = null

beforeEach(async () => {
  const components = COMPONENTS.map((c, k) => ({ id: c.id, freedom: [0, 1, 6][k], matrix: [] }))
  server = new Server().on('get /api/documents/*/assembly', { components, leaves: LEAVES, joints: [], properties: SAID })
  await opened(server, { kind: 'assembly', components: COMPONENTS, joints: [] }, { kind: 'assembly' })
  await useAssembly().rebuild()
  server.asked.length = 0
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useAssembly().close()
  useDocument().close()
})
const shown = (): string[] => useTree().rows.map((r) => r.id)

describe('rows of a tree', () => {
  it('stand below what holds them, each once, with what is empty or gone', () => {
    expect(rowsOf({ components: COMPONENTS }, LEAVES).map((r) => [r.id, r.name, r.level, r.holds])).toEqual([
      ['c1', 'Stand', 0, false],
      ['c2', 'Door', 0, true],
      ['c2/c7', 'Frame', 1, false],
      ['c2/c8', 'Hinge', 1, true],
      ['c2/c8/c1', 'Pin', 2, false],
      ['c2/c8/c2', 'Ring', 2, false],
      ['c3', 'Gone', 0, false],
    ])
  })
  it('stand in their group, copies under what makes them', () => {
    const held = {
      components: COMPONENTS,
      bunches: [{ id: 'g5', name: 'Both', components: ['c1', 'c3'] }],
      copies: [
        { id: 'r7', name: 'Doors' },
        { id: 'r8', name: 'None' },
      ],
    }
    const copies = [leaf('c2_r7_2/c7/b', ['Door · 2', 'Frame']), leaf('c2_r7_10/c7/b', ['Door · 10', 'Frame'])]
    const rows = rowsOf(held, [...LEAVES, ...copies])
    expect(rows.filter((r) => r.sort !== 'inner').map((r) => [r.id, r.name, r.level, r.sort, r.ids.join()])).toEqual([
      ['g5', 'Both', 0, 'group', 'c1,c3'],
      ['c1', 'Stand', 1, 'component', 'c1'],
      ['c3', 'Gone', 1, 'component', 'c3'],
      ['c2', 'Door', 0, 'component', 'c2'],
      ['r7', 'Doors', 0, 'copies', 'c2_r7_2,c2_r7_10'],
      ['c2_r7_2', 'Door · 2', 1, 'copy', 'c2_r7_2'],
      ['c2_r7_10', 'Door · 10', 1, 'copy', 'c2_r7_10'],
      ['r8', 'None', 0, 'copies', ''],
    ])
    expect(rows.find((r) => r.id === 'c2_r7_10/c7')?.above).toEqual(['r7', 'c2_r7_10'])
    expect([makerOf('c3_r7_2_r9_4'), makerOf('c3'), originalOf('c3_r7_2_r9_4')]).toEqual(['r9', null, 'c3'])
  })
  it('know what lies in them, not what only begins alike', () => {
    const rows = new Set(['c2/c8', 'c1'])
    expect(['c2/c8', 'c2/c8/c1/b', 'c1/b', 'c1'].every((id) => within(id, rows))).toBe(true)
    expect(['c2', 'c2/c7/b', 'c10/b', 'c2/c80'].some((id) => within(id, rows))).toBe(false)
    expect(within('c1', new Set())).toBe(false)
  })
  it('are folded first, opened one by one or all at once', () => {
    const tree = useTree()
    expect(shown()).toEqual(['c1', 'c2', 'c3'])
    tree.fold('c2')
    expect(shown()).toEqual(['c1', 'c2', 'c2/c7', 'c2/c8', 'c3'])
    tree.fold('c2/c8')
    tree.fold('c2')
    // What was open inside is open again with its parent.
    expect(shown()).toEqual(['c1', 'c2', 'c3'])
    tree.foldAll(false)
    expect(shown().length).toBe(7)
    tree.foldAll(true)
    expect(shown().length).toBe(3)
  })
  it('are found by name or tag, with what leads to them', () => {
    const tree = useTree()
    tree.wanted = ' pin '
    expect(shown()).toEqual(['c2', 'c2/c8', 'c2/c8/c1'])
    tree.wanted = 'a1'
    expect(shown()).toEqual(['c1'])
    // By what is said of its document, or of that it stands in.
    tree.wanted = 'zinc'
    expect(shown()).toEqual(['c2', 'c2/c8', 'c2/c8/c1'])
    tree.wanted = 'supplier own'
    expect(shown()).toEqual(['c1'])
    tree.wanted = 'nothing'
    expect(shown()).toEqual([])
  })
})

describe('what is drawn', () => {
  it('leaves hidden rows out, however deep, and draws others as ghosts or in their material', () => {
    const [tree, sees] = [useTree(), useShown()]
    expect(tree.drawn(bodies)).toBe(bodies)
    sees.toggle('c2/c8')
    expect(tree.drawn(bodies).map((b) => b.id)).toEqual(['c1/b', 'c2/c7/b', 'c2/c7/b2'])
    tree.toggleGhost(['c2'])
    expect(tree.drawn(bodies).map((b) => Boolean(b.ghost))).toEqual([false, true, true])
    sees.hidden = new Set()
    tree.toggleGhost(['c2'])
    tree.colours = 'material'
    expect(tree.drawn(bodies).map((b) => b.colour)).toEqual(['#111111', '#111111', '#111111', '#222222', '#111111'])
  })
  it('in colours by a property, grey where nothing is said of it', () => {
    const tree = useTree()
    expect(tree.properties).toEqual(['Coating', 'Supplier'])
    tree.colours = '=Supplier'
    const [stand, frame, second, pin, ring] = tree.drawn(bodies).map((b) => b.colour)
    expect(new Set([stand, frame, pin]).size).toBe(3)
    expect([second, ring]).toEqual([frame, frame])
    tree.colours = '=Coating'
    const grey = tree.drawn(bodies).map((b) => b.colour)
    expect(new Set(grey.filter((_, k) => k !== 3)).size).toBe(1)
    expect(grey[3]).not.toBe(grey[0])
  })
  it('all others as ghosts, and back', () => {
    const tree = useTree()
    tree.ghostOthers(['c2/c8'])
    expect([...tree.ghosts]).toEqual(['c1', 'c3'])
    tree.ghostOthers(['c2/c8'])
    expect(tree.ghosts.size).toBe(0)
  })
})

describe('the tree on the screen', () => {
  it('lights what is chosen, and chooses what is clicked, several with Shift', async () => {
    drawn = mount(ComponentTree)
    await drawn.click('component-c1')
    drawn.find('component-c3').dispatchEvent(new MouseEvent('click', { shiftKey: true, bubbles: true }))
    await settled()
    expect(useAssembly().selected).toEqual(['c1', 'c3'])
    expect(drawn.text('.row.on b')).toEqual(['Stand', 'Gone'])
    expect(drawn.text('.row .muted')).toEqual(['anchored', '1 free', 'free'])
    await drawn.click('fold-c2')
    await drawn.click('component-c2/c7')
    expect([useAssembly().selected, drawn.text('.row.on b')]).toEqual([['c2'], ['Door', 'Frame', 'Hinge']])
  })
  it('says how much is hidden and brings all back', async () => {
    drawn = mount(ComponentTree)
    useShown().toggle('c1')
    useTree().toggleGhost(['c2'])
    await settled()
    expect(drawn.find('show-all').parentElement!.textContent).toContain('1 hidden 1 seen through')
    await drawn.click('show-all')
    expect([useShown().hidden.size, useTree().ghosts.size]).toEqual([0, 0])
  })
})

describe('copies', () => {
  it('are set down beside and chosen; refused ones change nothing', async () => {
    const asm = useAssembly()
    asm.widthOf = () => 80
    server.on('post /api/documents/*/commands', refused(422, 'too many'))
    await asm.copy(['c1'])
    expect(asm.selected).toEqual([])
    const more = [...COMPONENTS, { id: 'c9', name: 'Stand 2', document: 'p1' }]
    server.on('post /api/documents/*/commands', told(2, { kind: 'assembly', components: more, joints: [] }, { kind: 'assembly' }))
    await asm.copy(['c1'])
    expect(server.last('/commands').body).toMatchObject({ commands: [{ do: 'copy_components', ids: ['c1'], by: [97, 0, 0] }] })
    expect(asm.selected).toEqual(['c9'])
  })
})
