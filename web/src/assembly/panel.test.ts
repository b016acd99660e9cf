import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { useDocument, useRegistries } from '../document/store'
import { useParameters } from '../parameters/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { Server, settled } from '../testing/server'
import AssemblyPanel from './AssemblyPanel.vue'
import { useJoining } from './joining'
import PlacePanel from './PlacePanel.vue'
import { useAssembly } from './store'

const end = (component: string): object => ({ component, path: [], pick: { body: 'b', kind: 'face', name: ['x'], witness: null } })
const joint = (id: string, kind: string, more: object = {}): object => ({
  id,
  kind,
  name: `Joint ${id}`,
  a: end('c1'),
  b: end('c2'),
  motions: {},
  asleep: false,
  ...more,
})
const kind = (word: string, family: string, coordinates: object[]): object => ({
  kind: word,
  label: word,
  icon: 'link',
  line: '',
  family,
  coordinates,
  factor: null,
  picks: [1, 1],
  shifts: true,
  hint: '',
  best: [],
})
const KINDS = [
  kind('revolute', 'Joint', [{ name: 'turn', label: 'Angle', unit: 'deg' }]),
  kind('distance', 'Condition', [{ name: 'distance', label: 'Distance', unit: 'mm' }]),
  kind('fixed', 'Joint', []),
]
const JOINTS = [
  joint('j1', 'revolute', { motions: { turn: { value: '30 deg', least: '0 deg', most: null } } }),
  joint('j2', 'distance', { motions: { distance: { value: '12 mm', least: null, most: null } } }),
  joint('j3', 'fixed', { asleep: true }),
]
const view = (id: string, coordinates: object[], more: object = {}): object => ({
  id,
  coordinates,
  repeats: false,
  turning: false,
  trouble: null,
  ...more,
})
const TURN = { name: 'turn', label: 'Angle', unit: 'deg', value: 30, least: 0, most: null }
const built = (more: object = {}): object => ({
  components: [
    { id: 'c1', freedom: 0, matrix: [] },
    { id: 'c2', freedom: 1, matrix: [] },
  ],
  leaves: [],
  joints: [view('j1', [TURN]), view('j2', [{ ...TURN, name: 'distance', unit: 'mm', value: 12 }]), view('j3', [])],
  freedom: 1,
  holds: true,
  mass: 1234.5,
  troubles: [],
  ...more,
})
const ASSEMBLY = { kind: 'assembly', components: ['c1', 'c2'].map((id) => ({ id, name: `Part ${id}` })), joints: JOINTS, last_id: 9 }
let server: Server
let drawn: Drawn | null = null
const sent = (): object => (server.last('/commands').body as { commands: object[] }).commands[0]

async function panel(more: object = {}, props: Record<string, unknown> = {}): Promise<Drawn> {
  server.on('get /api/documents/*/assembly', built(more))
  await opened(server, ASSEMBLY, { kind: 'assembly' })
  await useRegistries().load()
  await useAssembly().rebuild()
  server.on('post /api/documents/*/commands', told(2, ASSEMBLY, { kind: 'assembly' }))
  drawn = mount(AssemblyPanel, { placing: null, ...props })
  await settled()
  return drawn
}
beforeEach(() => {
  server = new Server().on('get /api/kinds', { steps: [], tools: [], joints: KINDS })
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useJoining().discard()
  useAssembly().close()
  useDocument().close()
})

describe('the panel of an assembly', () => {
  it('tells freedoms and mass, or that joints contradict', async () => {
    const d = await panel()
    expect([d.text('[data-testid=freedom]'), d.text('[data-testid=total-mass]')]).toEqual([['1 freedom'], ['1234.5 g']])
    useAssembly().built = built({ holds: false }) as never
    await settled()
    expect(d.text('[data-testid=freedom]')).toEqual(['joints contradict'])
    useAssembly().built = built({ freedom: 0 }) as never
    await settled()
    expect(d.text('[data-testid=freedom]')).toEqual(['all held'])
  })
  it('folds away many joints that hold something fast, but none that tell something', async () => {
    const many = [...JOINTS, ...[4, 5, 6, 7, 8, 9].map((n) => joint(`j${n}`, 'fixed'))]
    const views = many.map((j) => view((j as { id: string }).id, []))
    views[4] = view('j5', [], { repeats: true })
    const before = ASSEMBLY.joints
    ASSEMBLY.joints = many
    const d = await panel({ joints: views })
    ASSEMBLY.joints = before
    const shown = (): string[] => d.text('.row.joint b').map((t) => t.slice(6))
    expect(shown()).toEqual(['j1', 'j2', 'j3', 'j5'])
    expect(d.text('[data-testid=joints-fast]')).toEqual(['5 hold components fast'])
    d.find('joints-fast').click()
    await settled()
    expect(shown()).toEqual(['j1', 'j2', 'j3', 'j5', 'j4', 'j6', 'j7', 'j8', 'j9'])
  })
  it('has a slider for what a joint leaves, within its limits, and none for what sleeps or is a condition', async () => {
    const d = await panel()
    const slider = d.find<HTMLInputElement>('drive-j1')
    expect([slider.min, slider.max, slider.value]).toEqual(['0', '180', '30'])
    expect(d.all('input[type=range]').length).toBe(1)
    expect(d.text('.row.joint .muted')).toEqual(['30°', 'fixed'])
  })
  it('changes the size of a condition where it stands, with its unit', async () => {
    const d = await panel()
    expect(d.find<HTMLInputElement>('size-j2').value).toBe('12 mm')
    await d.type('size-j2', '15')
    expect(sent()).toEqual({
      do: 'edit_joint',
      id: 'j2',
      fields: { motions: { distance: { value: '15 mm', least: null, most: null } } },
    })
    server.asked.length = 0
    await d.type('size-j2', '12 mm')
    await d.type('size-j2', '  ')
    expect(server.asked).toEqual([])
  })
  it('says what is wrong with a joint and takes what is offered', async () => {
    const commands = [{ do: 'edit_joint', id: 'j2', fields: { asleep: true } }]
    const trouble = {
      code: 'over_constrained',
      text: 'Near cannot hold together with Far: 2 mm off at the best',
      where: [],
      offers: [
        { label: 'Put Far to sleep', commands },
        { label: 'Use the nearest face', fields: { a: end('c1') } },
      ],
    }
    const d = await panel({ joints: [view('j1', [TURN], { trouble }), view('j2', []), view('j3', [])] })
    expect(d.find('joint-j1').textContent).toContain('2 mm off at the best')
    const [sleep, nearest] = d.all('.offers .btn')
    await d.click(sleep)
    expect(sent()).toEqual(commands[0])
    await d.click(nearest)
    expect(sent()).toEqual({ do: 'edit_joint', id: 'j1', fields: { a: end('c1') } })
  })
  it('says what repeats and what stands at a change point', async () => {
    const d = await panel({
      joints: [view('j1', [TURN], { turning: true, repeats: true }), view('j2', [], { repeats: true }), view('j3', [])],
    })
    expect(d.find('joint-j1').textContent).toContain('it may go on in two ways')
    expect(d.find('joint-j2').textContent).toContain('Says again, in part')
    expect(d.find('joint-j3').className).toContain('asleep')
  })
  it('opens a joint in its place by two clicks, or when a table leads to it', async () => {
    const d = await panel()
    server.on('post /api/documents/*/assembly/try', built())
    d.find('joint-j2')
      .querySelector('b')!
      .dispatchEvent(new MouseEvent('dblclick', { bubbles: true }))
    await settled()
    expect([useJoining().id, d.all('[data-testid=joint-editor]').length, d.all('[data-testid=joint-j2]').length]).toEqual(['j2', 1, 0])
    useJoining().discard()
    useParameters().jump = { kind: 'joint', id: 'j1' }
    await settled()
    expect([useJoining().id, useParameters().jump]).toEqual(['j1', null])
  })
  it('asks for joints where there are none', async () => {
    await panel()
    drawn!.gone()
    server.on('get /api/documents/*', told(3, { ...ASSEMBLY, joints: [] }, { kind: 'assembly' }))
    await useDocument().open('d1', () => false)
    drawn = mount(AssemblyPanel, { placing: null })
    expect(drawn.root.textContent).toContain('None yet. Choose Join')
  })
})

describe('positions', () => {
  it('are taken, kept under a name or anew, and given up', async () => {
    const d = await panel()
    server.on(
      'get /api/documents/*',
      told(3, { ...ASSEMBLY, positions: [{ id: 'p7', name: 'Open', placements: {}, values: {} }] }, { kind: 'assembly' }),
    )
    await useDocument().open('d1', () => false)
    await settled()
    server.on('post /api/documents/*/commands', told(4, { ...ASSEMBLY, positions: [{ id: 'p7', name: 'Open' }] }, { kind: 'assembly' }))
    await d.click('position-p7')
    expect(sent()).toEqual({ do: 'take_position', id: 'p7' })
    expect(d.all('[data-testid=keep-position]')).toEqual([])
    await d.type('position-name', 'Open')
    expect(d.text('[data-testid=keep-position]')).toEqual(['Keep anew'])
    await d.click('keep-position')
    expect(sent()).toEqual({ do: 'keep_position', name: 'Open' })
    expect(d.find<HTMLInputElement>('position-name').value).toBe('')
    await d.click(d.find('positions').querySelector<HTMLElement>('[aria-label="Give Open up"]')!)
    expect(sent()).toEqual({ do: 'remove_position', id: 'p7' })
  })
})

describe('bringing in', () => {
  const line = (id: string, name: string): object => ({ id, name, kind: 'part', revision: 1 })
  const six = ['Drum', 'Drum shaft', 'Door', 'Lever', 'Knob', 'Base plate'].map((n, k) => line(`d${k}`, n))
  it('finds by words, places what is clicked, remembers whether it is anchored', async () => {
    const placed: unknown[] = []
    server.on('get /api/documents/*/members', { name: '', row: null, columns: [], rows: [], options: [], combinations: 1 })
    drawn = mount(PlacePanel, { documents: six, onPlace: (d: { name: string }, anchored: boolean) => placed.push([d.name, anchored]) })
    await drawn.type('place-find', 'drum sh')
    expect(drawn.text('.line').map((t) => t.trim())).toEqual(['Drum shaft'])
    await drawn.click('place-Drum shaft')
    await settled()
    await drawn.click('place-anchored')
    await drawn.click('place-Drum shaft')
    await settled()
    expect(placed).toEqual([
      ['Drum shaft', false],
      ['Drum shaft', true],
    ])
    drawn.gone()
    drawn = mount(PlacePanel, { documents: six.slice(0, 2) })
    expect([drawn.find<HTMLInputElement>('place-anchored').checked, drawn.all('[data-testid=place-find]').length]).toEqual([true, 0])
  })
  it('says where there is nothing', async () => {
    drawn = mount(PlacePanel, { documents: [] })
    expect(drawn.root.textContent).toContain('A STEP file can be dropped into the picture')
    drawn.gone()
    drawn = mount(PlacePanel, { documents: six })
    await drawn.type('place-find', 'gearbox')
    expect(drawn.root.textContent).toContain('None is called so.')
  })
})
