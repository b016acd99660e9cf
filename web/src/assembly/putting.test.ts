// Hardware, ports, replacing: asked while things are chosen, shown before they are kept, given up whole.
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { useDocument, useRegistries } from '../document/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { refused, Server, settled } from '../testing/server'
import HardwareEditor from './HardwareEditor.vue'
import { useHardware } from './hardware'
import PortsCard from './PortsCard.vue'
import { usePorts } from './ports'
import ReplacePanel from './ReplacePanel.vue'
import { useReplacing } from './replacing'
import { useAssembly } from './store'

const ASSEMBLY = {
  kind: 'assembly',
  components: [
    { id: 'c1', name: 'Plate', document: 'p1' },
    { id: 'c2', name: 'Post', document: 'p2' },
  ],
  joints: [],
  last_id: 4,
}
const built = (note = ''): object => ({ components: [], leaves: [], joints: [], copies: [], troubles: [], note })
const STANDARDS = [
  { standard: 'ISO 4762', label: 'Socket head screw', role: 'screw', system: 'metric', sizes: ['M5', 'M6', 'M8'], lengths: true },
  { standard: 'ISO 8734', label: 'Dowel pin', role: 'pin', system: 'metric', sizes: ['6'], lengths: true },
]
const fits = (more: object = {}): object => ({
  diameter: 6.6,
  bores: [{ diameter: 6.6, start: 0, end: 14, name: 'Plate' }],
  through: true,
  alike: 3,
  items: [
    { title: 'ISO 7089 M6', name: 'Plain washer M6', far: false },
    { title: 'ISO 4762 M6 x 25', name: 'Socket head screw M6', far: false },
  ],
  size: 'M6',
  sizes: ['M6'],
  length: 25,
  lengths: [20, 25, 30],
  grip: 14,
  held: 5,
  tapped: false,
  notes: [],
  assembly: built('tried'),
  ...more,
})
const end = { component: 'c1', path: [], pick: { body: 'b', kind: 'edge', name: ['x'], witness: null } } as never
let server: Server
let drawn: Drawn | null = null
const asked = (path: string): Record<string, unknown> => server.last(path).body as Record<string, unknown>

beforeEach(async () => {
  localStorage.clear()
  server = new Server()
    .on('get /api/kinds', { steps: [], tools: [], joints: [], copies: [], documents: [{ kind: 'part', placeable: true }] })
    .on('get /api/hardware', { standards: STANDARDS })
    .on('get /api/documents/*/assembly', built())
    .on('post /api/documents/*/hardware/look', fits())
    .on('post /api/documents/*/hardware', told(2, ASSEMBLY, { kind: 'assembly' }))
    .on('post /api/documents/*/commands', told(2, ASSEMBLY, { kind: 'assembly' }))
  await opened(server, ASSEMBLY, { kind: 'assembly' })
  await useRegistries().load()
  await useAssembly().rebuild()
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useHardware().discard()
  useReplacing().discard()
  usePorts().discard()
  useAssembly().close()
  useDocument().close()
})

describe('hardware for a hole', () => {
  it('is looked at with what the hole asks for, then with what is chosen', async () => {
    const hardware = useHardware()
    await hardware.begin()
    hardware.take(end)
    await settled()
    expect(asked('/look')).toMatchObject({ standard: 'ISO 4762', size: '', length: 0, washer: true, nut: true, alike: true })
    expect(useAssembly().drawn).toMatchObject({ note: 'tried' })
    hardware.choose({ size: 'M6', length: 30 })
    await settled()
    expect(asked('/look')).toMatchObject({ size: 'M6', length: 30 })
    // Another washer may ask for another length.
    hardware.choose({ size: 'M6', washer: false })
    await settled()
    expect(asked('/look')).toMatchObject({ washer: false, length: 0 })
    hardware.choose({ standard: 'ISO 8734' })
    await settled()
    expect(asked('/look')).toMatchObject({ standard: 'ISO 8734', size: '', length: 0 })
  })
  it('is kept as it was looked at; what was chosen is there for the next hole', async () => {
    const hardware = useHardware()
    await hardware.begin()
    hardware.take(end)
    await settled()
    hardware.choose({ size: 'M6', nut: false })
    await settled()
    expect(await hardware.keep()).toBe(true)
    expect(asked('/hardware')).toMatchObject({ base: 1, size: 'M6', nut: false, end: { component: 'c1' } })
    expect([hardware.end, hardware.open, hardware.chosen.nut]).toEqual([null, true, false])
    // It stays in the picture until what was kept is put together.
    expect(useAssembly().drawn).toMatchObject({ note: 'tried' })
    await useAssembly().rebuild()
    expect(useAssembly().drawn).toMatchObject({ note: '' })
  })
  it('that does not fit is told in its words, and cannot be kept', async () => {
    server.on('post /api/documents/*/hardware/look', refused(422, 'no dowel pin goes into a hole of 6.6 mm'))
    drawn = mount(HardwareEditor)
    const hardware = useHardware()
    await hardware.begin()
    await settled()
    expect(drawn.text('p')[0]).toContain('Pick the round edge')
    hardware.take(end)
    await settled()
    expect(drawn.text('.trouble').join()).toContain('no dowel pin goes into')
    expect((drawn.find('keep-hardware') as HTMLButtonElement).disabled).toBe(true)
    expect(await hardware.keep()).toBe(false)
  })
  it('shows what stands on what, and what is to be known of it', async () => {
    server.on('post /api/documents/*/hardware/look', fits({ notes: ['nothing holds it'] }))
    drawn = mount(HardwareEditor)
    const hardware = useHardware()
    await hardware.begin()
    hardware.take(end)
    await settled()
    expect(drawn.text('[data-testid=hardware-stack] li')).toEqual(['ISO 7089 M6', 'ISO 4762 M6 x 25'])
    expect(drawn.text('[data-testid=hardware-through]')[0]).toBe('Plate 14 mm, through')
    expect(drawn.text('.note')).toEqual(['nothing holds it'])
    expect(drawn.text('label').join()).toContain('Into all 4 alike')
  })
})

describe('ports', () => {
  const place = (x: number): object => ({
    title: 'Foot on Plate',
    commands: [{ do: 'add_joint', kind: 'fixed' }],
    placement: { p: [x, 0, 0], q: [1, 0, 0, 0] },
  })
  it('show each place and take one, with all its joints at once', async () => {
    server.on('get /api/documents/*/assembly/ports', { places: [place(5), place(9)] })
    drawn = mount(PortsCard)
    const [ports, asm] = [usePorts(), useAssembly()]
    await ports.begin('c2')
    await settled()
    expect(drawn.text('.line span:first-child')).toEqual(['Foot on Plate · 1', 'Foot on Plate · 2'])
    drawn.find('port-1').dispatchEvent(new Event('pointerenter'))
    expect(asm.live?.c2.placement.p).toEqual([9, 0, 0])
    drawn.find('port-1').dispatchEvent(new Event('pointerleave'))
    expect(asm.live).toBe(null)
    await drawn.click('port-1')
    const { commands } = asked('/commands') as { commands: object[] }
    expect(commands).toEqual([
      { do: 'place_components', placements: { c2: { p: [9, 0, 0], q: [1, 0, 0, 0] } } },
      { do: 'add_joint', kind: 'fixed' },
    ])
    expect(ports.component).toBe(null)
  })
  it('draw in what is dragged near to one place, and ask where there are several', async () => {
    server.on('get /api/documents/*/assembly/ports', { places: [place(5), place(9), place(400)] })
    const [ports, asm] = [usePorts(), useAssembly()]
    await ports.lookAround('c2')
    // The point that is held, ten millimetres up, in pixels from where the pointer stands at x = 8.
    const away = ([x, , z]: number[]): number => 5 * Math.abs(x - 8) + Math.abs(z - 10)
    const found = ports.near('c2', [0, 0, 10], away)
    expect(found.map((p) => p.placement.p[0])).toEqual([9, 5])
    expect(ports.near('c3', [0, 0, 10], away)).toEqual([])
    await ports.meet('c2', found)
    expect([ports.component, ports.places.length, asm.live?.c2.placement.p[0]]).toEqual(['c2', 2, 9])
    ports.discard()
    await ports.lookAround('c2')
    await ports.meet(
      'c2',
      ports.near('c2', [0, 0, 10], ([x]) => Math.abs(x - 395)),
    )
    const { commands } = asked('/commands') as { commands: { placements?: object }[] }
    expect(commands[0].placements).toEqual({ c2: { p: [400, 0, 0], q: [1, 0, 0, 0] } })
    expect(ports.component).toBe(null)
  })
  it('that match nothing open nothing by themselves, and say so when asked', async () => {
    server.on('get /api/documents/*/assembly/ports', { places: [] })
    const ports = usePorts()
    await ports.begin('c2', true)
    expect(ports.component).toBe(null)
    drawn = mount(PortsCard)
    await ports.begin('c2')
    await settled()
    expect(drawn.text('p')[0]).toContain('None of its ports')
  })
})

describe('replacing', () => {
  it('offers other documents, tells what of the joints is found again, and keeps what was looked at', async () => {
    const ends = [
      { id: 'j3', side: 'a', title: 'Lies on', how: 'name', score: 1, end: null },
      { id: 'j4', side: 'b', title: 'In line', how: 'lost', score: 0.33, end: null },
      { id: 'j5', side: 'b', title: 'Turns', how: 'likeness', score: 0.87, end: null },
    ]
    server
      .on('get /api/shelf', {
        projects: [
          {
            id: useDocument().view!.project,
            documents: [
              { id: 'p1', kind: 'part', name: 'Old', revision: 1 },
              { id: 'p3', kind: 'part', name: 'New', revision: 1 },
            ],
          },
        ],
      })
      .on('post /api/documents/*/assembly/replace/look', { ends, assembly: built('tried') })
      .on('post /api/documents/*/assembly/replace', told(2, ASSEMBLY, { kind: 'assembly' }))
    drawn = mount(ReplacePanel)
    const replacing = useReplacing()
    await replacing.begin('c1')
    await settled()
    // What stands there already is not offered.
    expect(replacing.documents.map((d) => d.id)).toEqual(['p3'])
    await replacing.choose('p3')
    await settled()
    expect(asked('/replace/look')).toEqual({ component: 'c1', document: 'p3' })
    expect(drawn.text('.ends .muted')).toEqual(['by name', 'mend, nearest 33 %', '87 % alike'])
    expect(useAssembly().drawn).toMatchObject({ note: 'tried' })
    expect(await replacing.keep()).toBe(true)
    expect(asked('/replace')).toEqual({ component: 'c1', document: 'p3', base: 1 })
    expect(replacing.component).toBe(null)
  })
})
