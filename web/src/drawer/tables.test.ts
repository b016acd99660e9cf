import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import ChecksTable from '../checks/ChecksTable.vue'
import { useChecks } from '../checks/store'
import { useDocument, useRegistries } from '../document/store'
import { useHelp } from '../help/store'
import FormulaField from '../parameters/FormulaField.vue'
import ParametersTable from '../parameters/ParametersTable.vue'
import { useParameters } from '../parameters/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { refused, Server, settled } from '../testing/server'
import LengthInput from '../ui/LengthInput.vue'
import { PLAIN, units } from '../ui/units'
import MessagesTable from './MessagesTable.vue'

let server: Server
let drawn: Drawn | null = null
const commands = (): Record<string, unknown>[] => (server.last('/commands').body as { commands: Record<string, unknown>[] }).commands
const press = async (what: HTMLElement, key: string, more: object = {}): Promise<void> => {
  what.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }))
  await settled()
}

beforeEach(() => {
  server = new Server()
    .on('get /api/documents/*/build', { bodies: [], steps: [] })
    .on('get /api/documents/*/uses', { uses: {} })
    .on('get /api/formula-words', { words: [{ word: 'sqrt', kind: 'function', line: 'root', example: 'sqrt(4)', gives: '2' }] })
    .on('post /api/documents/*/foresee', { rebuilt: [], fails: [] })
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useChecks().close()
  useDocument().close()
  units.value = PLAIN
  vi.useRealTimers()
})

describe('checks', () => {
  const kinds = [
    { kind: 'mass', label: 'Mass', line: '', documents: ['part'], relation: 'at_most', limit: '1 kg', picks: 0, asks: [] },
    { kind: 'distance', label: 'Distance', line: '', documents: ['part'], relation: 'at_least', limit: '1 mm', picks: 2, asks: [] },
    {
      kind: 'interference',
      label: 'Interference',
      line: '',
      documents: ['assembly'],
      relation: 'at_most',
      limit: '0 mm3',
      picks: 0,
      asks: [],
    },
  ]
  const check = { id: 'k1', kind: 'mass', name: 'Light', relation: 'at_most', limit: '200 g', fields: {} }
  async function table(checks: object[], found: object[] = []): Promise<Drawn> {
    server.on('get /api/kinds', { steps: [], tools: [], checks: kinds, lists: [] }).on('get /api/documents/*/checks', { checks: found })
    await opened(server, { checks })
    await useRegistries().load()
    await useChecks().refresh()
    server.on('post /api/documents/*/commands', told(2, { checks }))
    drawn = mount(ChecksTable)
    return drawn
  }
  it('tell what was found, in words and in their colour, and what they cannot tell', async () => {
    const d = await table(
      [check, { ...check, id: 'k2', name: 'Clear', limit: '3 mm**3' }],
      [
        { id: 'k1', state: 'fails', shown: '251 g', limit: '200 g' },
        { id: 'k2', state: 'trouble', trouble: { text: 'a surface has no volume' } },
      ],
    )
    expect(d.text('.state')).toEqual(['fails', 'cannot tell'])
    expect(d.find('check-k1').textContent).toContain('251 g')
    expect(d.find('check-k2').textContent).toContain('a surface has no volume')
    expect(d.find('check-k2').textContent).toContain('≤ 3 mm³')
  })
  it('are made of the kinds this document can have; picks first where they need them', async () => {
    const d = await table([])
    expect(d.text('.add .btn')).toEqual(['+ Mass', '+ Distance'])
    await d.click('add-check-distance')
    expect([useChecks().picking, d.find<HTMLButtonElement>('make-check').disabled]).toEqual([true, true])
    useChecks().take({ name: 'a' })
    useChecks().take({ name: 'b' })
    await settled()
    expect(d.root.textContent).toContain('2 of 2 picked')
    await d.type('check-limit', '5 mm')
    await d.click('make-check')
    expect(commands()[0]).toMatchObject({
      do: 'add_check',
      kind: 'distance',
      relation: 'at_least',
      limit: '5 mm',
      fields: { picks: [{ name: 'a' }, { name: 'b' }] },
    })
    expect([useChecks().picking, useChecks().picked]).toEqual([false, []])
  })
  it('have their limit changed in place; empty or Esc leaves it', async () => {
    const d = await table([check], [{ id: 'k1', state: 'holds', limit: '200 g' }])
    const cell = (): HTMLElement => d.all('tbody td')[3]
    await d.click(cell())
    await d.type(cell().querySelector('input')!, '300 g')
    await press(cell().querySelector('input')!, 'Enter')
    expect(commands()[0]).toEqual({ do: 'edit_check', id: 'k1', limit: '300 g' })
    server.asked.length = 0
    await d.click(cell())
    await press(cell().querySelector('input')!, 'Escape')
    expect([cell().querySelector('input'), server.asked]).toEqual([null, []])
  })
})

describe('messages', () => {
  it('come with the page about them, the newest first', async () => {
    const doc = await opened(server)
    drawn = mount(MessagesTable)
    expect(drawn.root.textContent).toContain('Nothing to report')
    doc.say('all well', 'good')
    doc.say('a pick is lost', 'bad', [], 'lost')
    await settled()
    expect(drawn.text('td:nth-child(3)')).toEqual(['a pick is lost', 'all well'])
    server.on('get /api/help', { pages: [{ id: 'message:lost', title: 'Lost picks' }] })
    await drawn.click(drawn.all('.btn')[0])
    expect([useHelp().shown, useHelp().open]).toEqual([true, 'message:lost'])
    expect(drawn.all('.btn').length).toBe(1)
  })
})

describe('a formula being typed', () => {
  async function field(text = ''): Promise<{ input: HTMLInputElement; kept: string[]; left: number[]; now: () => string }> {
    await opened(server, {
      parameters: [
        { name: 'wall', formula: '3 mm' },
        { name: 'width', formula: '40 mm' },
      ],
    })
    const [kept, left]: [string[], number[]] = [[], []]
    let value = text
    drawn = mount(FormulaField, {
      modelValue: text,
      'onUpdate:modelValue': (v: string) => (value = v),
      onKeep: (how: string) => kept.push(how),
      onLeave: () => left.push(1),
    })
    await settled()
    return { input: drawn.all('input')[0] as HTMLInputElement, kept, left, now: () => value }
  }
  async function type(input: HTMLInputElement, text: string): Promise<void> {
    input.value = text
    input.setSelectionRange(text.length, text.length)
    input.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
  }
  it('is kept by Enter downwards, by Tab to the side, left by Esc', async () => {
    const f = await field('3 mm')
    await press(f.input, 'Enter')
    await press(f.input, 'Tab')
    await press(f.input, 'Tab', { shiftKey: true })
    await press(f.input, 'Escape')
    expect([f.kept, f.left.length]).toEqual([['down', 'right', 'left'], 1])
  })
  it('is passed on as it is typed', async () => {
    const f = await field()
    await type(f.input, '2 * wal')
    expect(f.now()).toBe('2 * wal')
    expect(f.kept).toEqual([])
  })
})

describe('parameters', () => {
  const PARAMETERS = [
    { name: 'wall', formula: '3 mm', note: 'thin', group: '', limits: null },
    { name: 'width', formula: '40 mm', note: '', group: 'Body', limits: null },
  ]
  async function table(): Promise<Drawn> {
    await opened(server, { parameters: PARAMETERS })
    useParameters().values = { wall: { shown: '3 mm', trouble: null }, width: { shown: '40 mm', trouble: null } } as never
    server.on('post /api/documents/*/commands', told(2, { parameters: PARAMETERS }))
    drawn = mount(ParametersTable)
    await settled()
    return drawn
  }
  const cell = (d: Drawn, at: string): HTMLElement => d.root.querySelector<HTMLElement>(`[data-cell="${at}"]`)!
  it('stand by their groups, what they come to beside them', async () => {
    const d = await table()
    expect(d.all('[data-cell$="/name"]').map((c) => c.dataset.cell)).toEqual(['wall/name', 'width/name'])
    expect(d.root.textContent).toContain('Body')
  })
  it('are walked with the arrows, begun by typing, and keep their unit', async () => {
    const d = await table()
    cell(d, 'wall/formula').focus()
    await settled()
    await press(cell(d, 'wall/formula'), 'ArrowDown')
    await press(document.activeElement as HTMLElement, '4')
    const input = d.root.querySelector<HTMLInputElement>('input.formula')!
    expect(input.value).toBe('4')
    await d.type(input, '45')
    await press(input, 'Enter')
    expect(commands()[0]).toEqual({ do: 'edit_parameter', name: 'width', formula: '45 mm' })
  })
  it('that cannot be changed so say why', async () => {
    const d = await table()
    server.on('post /api/documents/*/commands', refused(422, 'wall is less than 1 mm'))
    await d.click(cell(d, 'wall/formula'))
    const input = d.root.querySelector<HTMLInputElement>('input.formula')!
    expect(input.value).toBe('3 mm')
    await d.type(input, '0')
    await press(d.root.querySelector<HTMLInputElement>('input.formula')!, 'Enter')
    expect(d.root.textContent).toContain('wall is less than 1 mm')
  })
})

describe('a length in a plain field', () => {
  it('is shown and read in the unit of the document; what is none, or too small, is put back', async () => {
    units.value = { ...PLAIN, length: 'in' }
    let value = 25.4
    drawn = mount(LengthInput, { modelValue: value, least: 2, 'onUpdate:modelValue': (v: number) => (value = v) })
    const input = drawn.all('input')[0] as HTMLInputElement
    expect([input.value, drawn.root.textContent?.trim()]).toEqual(['1', 'in'])
    await drawn.type(input, '2 mm')
    expect(value).toBe(2)
    for (const bad of ['1 mm', 'wide', '']) {
      await drawn.type(input, bad)
      expect([value, input.value]).toEqual([2, '1'])
    }
  })
})
