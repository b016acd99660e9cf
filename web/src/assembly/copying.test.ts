import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useDocument, useRegistries } from '../document/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { Server, settled } from '../testing/server'
import ComponentTree from './ComponentTree.vue'
import { useCopying } from './copying'
import { useAssembly } from './store'
import { useTree } from './tree'

const kind = (word: string, more: object = {}): object => ({
  kind: word,
  label: word,
  icon: 'copies',
  line: '',
  hint: 'An edge',
  axis: true,
  counted: true,
  turns: true,
  spacing: { label: 'Spacing', unit: 'mm', default: '20 mm' },
  ...more,
})
const KINDS = [kind('row'), kind('following', { axis: false, counted: false, spacing: null, hint: 'The hole' })]
const ROW = {
  id: 'r7',
  kind: 'row',
  name: 'Screws',
  components: ['c2'],
  count: '3',
  spacing: '8 mm',
  axis: 'Y',
  left_out: [2],
  asleep: false,
}
const ASSEMBLY = {
  kind: 'assembly',
  components: [
    { id: 'c1', name: 'Plate' },
    { id: 'c2', name: 'Screw' },
  ],
  joints: [],
  bunches: [{ id: 'g5', name: 'Both', components: ['c1', 'c2'] }],
  copies: [ROW],
  last_id: 9,
}
const unit = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
const at = (x: number): number[] => [...unit.slice(0, 12), x, 0, 0, 1]
const leaf = (component: string, x: number): object => ({
  id: `${component}/b`, component, path: [], body: 'b', names: [component], member: component.split('_')[0],
  carried: component.includes('_') ? [{ about: null, matrix: at(x) }] : [], key: 'k', colour: '#999999', plain: '#999999', matrix: at(x),
}) // prettier-ignore
const built = (more: object = {}): object => ({
  components: ['c1', 'c2'].map((id) => ({ id, freedom: 6, matrix: at(0) })),
  leaves: [leaf('c1', 0), leaf('c2', 0), leaf('c2_r7_3', 16)],
  joints: [],
  copies: [{ id: 'r7', numbers: [3], note: '', trouble: null }],
  troubles: [],
  ...more,
})
let server: Server
let drawn: Drawn | null = null
const sent = (): Record<string, unknown>[] => (server.last('/commands').body as { commands: Record<string, unknown>[] }).commands
const tried = (): Record<string, unknown> => (server.last('/try').body as { commands: Record<string, unknown>[] }).commands[0]

beforeEach(async () => {
  vi.useFakeTimers()
  server = new Server()
    .on('get /api/kinds', { steps: [], tools: [], joints: [], copies: KINDS })
    .on('get /api/documents/*/assembly', built())
    .on('post /api/documents/*/assembly/try', built({ copies: [{ id: 'r10', numbers: [2, 3, 4], note: '', trouble: null }] }))
    .on('post /api/documents/*/commands', told(2, ASSEMBLY, { kind: 'assembly' }))
  await opened(server, ASSEMBLY, { kind: 'assembly' })
  await useRegistries().load()
  await useAssembly().rebuild()
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useCopying().discard()
  useAssembly().close()
  useDocument().close()
  vi.useRealTimers()
})
async function later(): Promise<void> {
  await vi.advanceTimersByTimeAsync(200)
  await settled()
}
const end = (component: string): never => ({ component, path: [], pick: { body: 'b', kind: 'edge', name: ['x'], witness: null } }) as never

describe('copies being made', () => {
  it('are of what was chosen, shown before they are kept, and gone when given up', async () => {
    const [copying, asm] = [useCopying(), useAssembly()]
    asm.selected = ['c2', 'c2_r7_3']
    copying.begin('row')
    expect(copying.components).toEqual(['c2'])
    copying.count = '4'
    copying.spacing = '12'
    copying.schedule(0)
    await later()
    expect(tried()).toMatchObject({ do: 'add_copies', kind: 'row', components: ['c2'], count: '4', spacing: '12 mm', of: null, axis: 'X' })
    expect(asm.drawn).not.toBe(asm.built)
    expect(copying.numbers).toEqual([2, 3, 4])
    copying.leave(3)
    await later()
    expect(tried().left_out).toEqual([3])
    copying.discard()
    expect(asm.drawn).toBe(asm.built)
  })
  it('ask for what they need, in words, and are not kept while they cannot be', async () => {
    const copying = useCopying()
    copying.begin('following')
    await later()
    expect(copying.next).toBe('components')
    copying.take(end('c2'))
    expect(copying.next).toBe('of')
    server.on(
      'post /api/documents/*/assembly/try',
      built({ copies: [{ id: 'r10', numbers: [], note: '', trouble: { code: 'x', text: 'no other hole', where: [], offers: [] } }] }),
    )
    copying.take(end('c1'))
    await later()
    expect(tried()).toMatchObject({ kind: 'following', of: { component: 'c1' }, count: null, spacing: null })
    expect(copying.trouble?.text).toBe('no other hole')
    expect(await copying.keep()).toBe(false)
  })
  it('are opened as they were kept', async () => {
    const copying = useCopying()
    copying.edit(ROW as never)
    await later()
    expect(tried()).toMatchObject({ do: 'edit_copies', id: 'r7', count: '3', spacing: '8 mm', axis: 'Y', left_out: [2] })
    expect(await copying.keep()).toBe(true)
    expect(sent()[0]).toMatchObject({ do: 'edit_copies', id: 'r7' })
    expect(copying.open).toBe(false)
  })
})

describe('groups and copies in the tree', () => {
  async function tree(): Promise<Drawn> {
    useTree().foldAll(false)
    drawn = mount(ComponentTree, {})
    await settled()
    return drawn
  }
  it('a number is changed where it stands', async () => {
    const panel = await tree()
    expect(panel.find<HTMLInputElement>('count-r7').value).toBe('3')
    await panel.type('count-r7', '5')
    expect(sent()).toEqual([{ do: 'edit_copies', id: 'r7', count: '5' }])
  })
  it('a row chooses all it stands for', async () => {
    const panel = await tree()
    await panel.click('component-g5')
    expect(useAssembly().selected).toEqual(['c1', 'c2'])
    await panel.click('component-r7')
    expect(useAssembly().selected).toEqual(['c2_r7_3'])
  })
  it('taking one of two out of a group dissolves it; copies become components where they stand', async () => {
    const asm = useAssembly()
    await asm.regroup('c1', null)
    expect(sent()).toEqual([{ do: 'dissolve_group', id: 'g5' }])
    await asm.freeCopies('r7')
    expect(sent()).toEqual([{ do: 'free_copies', id: 'r7', placements: { c2_r7_3: { p: [16, 0, 0], q: [1, 0, 0, 0] } } }])
    server.asked.length = 0
    await asm.regroup('c1', 'g5')
    expect(server.asked.length).toBe(0)
  })
})
