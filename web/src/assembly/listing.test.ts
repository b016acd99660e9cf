import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import PropertiesTable from '../drawer/PropertiesTable.vue'
import { useDocument } from '../document/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { refused, Server, settled } from '../testing/server'
import { doubles, type Line, useListing } from './listing'
import { useAssembly } from './store'
import TagsTable from './TagsTable.vue'

const line = (position: string, name: string, quantity: number, mass: number, more: Partial<Line> = {}): Line => ({
  position,
  document: `d${position}`,
  kind: 'part',
  name,
  variant: '',
  choice: { variant: null, options: {}, revision: null },
  level: position.split('.').length - 1,
  quantity,
  mass,
  total: quantity * mass,
  material: 'S235',
  properties: {},
  tags: [],
  components: ['c1'],
  ...more,
})
const LINES = [
  line('1', 'Stand', 1, 900),
  line('2', 'Screw M6', 12, 4.2, { properties: { 'Part number': 'N-10' }, tags: ['A', 'B'] }),
  line('2.1', 'Washer', 2, 1.5, { properties: { 'Part number': 'N-9' } }),
  line('3', 'Drum', 1, 1200),
]
let server: Server
let drawn: Drawn | null = null
const names = (): string[] => useListing().rows.map((r) => r.name)

beforeEach(async () => {
  server = new Server()
    .on('get /api/documents/*/parts', { columns: ['Part number'], lines: LINES })
    .on('get /api/documents/*/assembly', { components: [], leaves: [], joints: [] })
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useDocument().close()
})
const assembly = (components: object[] = []): Promise<unknown> =>
  opened(server, { kind: 'assembly', components, joints: [] }, { kind: 'assembly' })

describe('the list of parts', () => {
  it('sorts up, down, then as the tree has it; numbers as numbers, numbered names by their numbers', async () => {
    await assembly()
    const list = useListing()
    await list.load()
    list.sort('quantity')
    expect(names()).toEqual(['Stand', 'Drum', 'Washer', 'Screw M6'])
    list.sort('quantity')
    expect(names()[0]).toBe('Screw M6')
    list.sort('quantity')
    expect(names()).toEqual(['Stand', 'Screw M6', 'Washer', 'Drum'])
    list.sort('Part number')
    expect(names().slice(2)).toEqual(['Washer', 'Screw M6'])
  })
  it('finds by every word, in any column, hidden ones too', async () => {
    await assembly()
    const list = useListing()
    await list.load()
    list.wanted = 's235 n-1'
    expect(names()).toEqual(['Screw M6'])
    list.toggle('Part number')
    expect(names()).toEqual(['Screw M6'])
    expect(list.columns.map((c) => c.key)).not.toContain('Part number')
    list.wanted = 'copper'
    expect(names()).toEqual([])
  })
  it('is asked for in another way, and written with the columns that are shown', async () => {
    await assembly()
    const list = useListing()
    await list.show('parts')
    expect(server.last('/parts').query).toEqual({ way: 'parts' })
    list.toggle('tags')
    list.toggle('material')
    server.on('get /api/documents/*/parts.xlsx', 'PK')
    await list.save('xlsx')
    expect(server.last('/parts.xlsx').query).toEqual({
      way: 'parts',
      columns: 'position\nname\nquantity\nmass\ntotal\nPart number',
    })
  })
  it('shows the newest answer, and why there is none', async () => {
    await assembly()
    const list = useListing()
    server.hold()
    const [one, two] = [list.show('top'), list.show('parts')]
    await settled()
    server.on('get /api/documents/*/parts', { columns: [], lines: [LINES[0]] })
    await server.release(1)
    server.on('get /api/documents/*/parts', { columns: [], lines: LINES })
    await server.release(0)
    await Promise.all([one, two])
    expect(names()).toEqual(['Stand'])
    server.on('get /api/documents/*/parts', refused(422, 'only an assembly has a list of parts'))
    const again = list.load()
    await settled()
    await server.release(2)
    await again
    expect(list.trouble).toBe('only an assembly has a list of parts')
  })
})

describe('tags', () => {
  it('that more than one bears are pointed at; none are not', () => {
    const components = ['A', 'B', 'A', '', ''].map((tag, k) => ({ id: `c${k}`, tag }))
    expect([...doubles(components)]).toEqual(['c0', 'c2'])
  })
  it('are typed in a column, kept when they changed, and light their component', async () => {
    await assembly([
      { id: 'c1', name: 'Stand', tag: 'A' },
      { id: 'c2', name: 'Drum', tag: 'A' },
    ])
    drawn = mount(TagsTable)
    expect(drawn.all('[data-testid=tag-twice]').length).toBe(2)
    server.on('post /api/documents/*/commands', told(2, { kind: 'assembly', components: [], joints: [] }, { kind: 'assembly' }))
    await drawn.type('tag-c1', ' A ')
    expect(server.paths().filter((p) => p.includes('commands'))).toEqual([])
    await drawn.type('tag-c2', 'B')
    expect(server.last('/commands').body).toMatchObject({ commands: [{ do: 'edit_component', id: 'c2', tag: 'B' }] })
    expect(useAssembly().selected).toEqual(['c2'])
  })
})

describe('properties', () => {
  it('are offered, typed by their kind, and refused in words', async () => {
    await opened(server.on('get /api/documents/*/build', { bodies: [], steps: [] }), {
      properties: [
        { name: 'Part number', kind: 'text', value: 'R-1' },
        { name: 'Bought', kind: 'yes_no', value: 'yes' },
      ],
    })
    drawn = mount(PropertiesTable)
    expect(drawn.text('.chip')).toEqual(['+ Description', '+ Supplier'])
    expect(drawn.find<HTMLSelectElement>('property-Bought').value).toBe('yes')
    server.on('post /api/documents/*/commands', refused(422, 'Bought is yes or no'))
    await drawn.type('property-Bought', 'no')
    expect([server.last('/commands').body, drawn.root.textContent]).toEqual([
      { base: 1, commands: [{ do: 'set_property', name: 'Bought', value: 'no' }], label: null },
      expect.stringContaining('Bought is yes or no'),
    ])
    server.on('post /api/documents/*/commands', told(2, { properties: [{ name: 'Description', kind: 'text', value: '' }] }))
    await drawn.click('usual-Description')
    expect(drawn.text('tbody b')).toEqual(['Description'])
  })
})
