// Every type of field as it is drawn: what it shows of a value, and what touching it makes of it.
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { FieldView } from '../../api/client'
import { useDocument, useRegistries } from '../../document/store'
import { opened } from '../../testing/document'
import { type Drawn, mount } from '../../testing/mount'
import { Server, settled } from '../../testing/server'
import { PLAIN, units } from '../../ui/units'
import { useEdited } from '../edited'
import { fieldComponent } from './types'

const kind = (name: string, more: object = {}): object => ({ kind: name, label: name, fields: [], copyable: false, ...more })
const length = { name: 'length', label: 'Length', type: 'quantity', dimension: 'length', free: false, default: null, when: {} }
const drawing = {
  entities: [
    { id: 'p1', type: 'point', x: 0, y: 0 },
    { id: 'l1', type: 'line', a: 'p1', b: 'p1', construction: true },
    { id: 'l2', type: 'line', a: 'p1', b: 'p1', construction: false },
  ],
}
const steps = [
  { id: 's1', name: 'Outline', kind: 'sketch', fields: { drawing } },
  { id: 's2', name: 'Block', kind: 'extrude', fields: {} },
  { id: 's3', name: 'Holes', kind: 'sketch', fields: {} },
  { id: 's4', name: 'Rims', kind: 'set', fields: {} },
  { id: 's5', name: 'Mid', kind: 'plane', fields: {} },
]
const reports = [
  { id: 's2', values: { length: 20 } },
  { id: 's4', gathers: 'edge' },
  { id: 's5', datum: { form: 'plane' } },
]
const bodies = [
  { id: 'b1', name: 'Drum' },
  { id: 'b2', name: 'Lid' },
]
let server: Server
let drawn: Drawn

async function draw(
  type: string,
  value: unknown,
  more: Record<string, unknown> = {},
  others: Record<string, unknown> = {},
): Promise<Drawn> {
  const edited = useEdited()
  edited.fields = { ...others, it: value }
  const field = {
    name: 'it',
    label: 'It',
    type,
    free: false,
    accepts: 'edge',
    hint: null,
    dimension: 'length',
    words: {},
    when: {},
    ...more,
  }
  drawn = mount(fieldComponent(type)!, { field: field as unknown as FieldView })
  await settled()
  return drawn
}
const now = (): unknown => useEdited().fields.it
const pick = (name: string): object => ({ body: 'b1', kind: 'edge', name: [name] })

beforeEach(async () => {
  server = new Server()
    .on('get /api/documents/*/build', { bodies, steps: reports })
    .on('get /api/kinds', { steps: [kind('sketch'), kind('extrude', { copyable: true, fields: [length] }), kind('set')], tools: [] })
    .on('post /api/documents/*/try', { bodies: [], steps: [] })
  await opened(server, { steps, last_id: 5 })
  await useRegistries().load()
  await useEdited().begin('extrude')
})
afterEach(() => {
  drawn.gone()
  useEdited().discard()
  useDocument().close()
  units.value = PLAIN
})

describe('a quantity', () => {
  it('takes what is typed with its unit and leaves the text alone while it is', async () => {
    const d = await draw('quantity', '20 mm')
    await d.type('field-it', '7')
    expect([now(), d.find<HTMLInputElement>('field-it').value]).toEqual(['7 mm', '7'])
    await d.type('field-it', 'wall * 2')
    expect(now()).toBe('wall * 2')
    d.find('field-it').dispatchEvent(new Event('blur'))
    units.value = { ...PLAIN, length: 'in' }
    await d.type('field-it', '1 1/4')
    expect(now()).toBe('1 1/4 in')
    // An offer taken shows once nobody types.
    d.find('field-it').dispatchEvent(new Event('blur'))
    useEdited().set('it', '9 mm')
    await settled()
    expect(d.find<HTMLInputElement>('field-it').value).toBe('9 mm')
  })
  it('says what a formula comes to, not what a plain length does, and that it is wrong', async () => {
    const edited = useEdited()
    edited.trial = { bodies: [], steps: [...steps.map((s) => ({ id: s.id })), { id: 's6', values: { it: 12.5 } }] } as never
    const d = await draw('quantity', 'wall * 2')
    expect(d.text('small')).toEqual(['= 12.5 mm'])
    edited.set('it', '12.5 mm')
    await settled()
    expect(d.text('small')).toEqual([])
    edited.error = { text: 'too thin', where: ['field:it'], offers: [], code: 'x' }
    await settled()
    expect(d.find('field-it').classList).toContain('bad')
  })
})

describe('one of some', () => {
  it('stands side by side, or in a list where the words are long, with the planes there are', async () => {
    const d = await draw('choice', 'new', { words: { new: 'New', add: 'Add' } })
    expect(d.text('.segmented button.on')).toEqual(['New'])
    await d.click('choice-it-add')
    expect(now()).toBe('add')
    d.gone()
    const long = await draw('choice', 'xy', { words: { xy: 'The plane of X and Y', yz: 'The plane of Y and Z' }, datums: ['plane'] })
    expect(long.text('option')).toEqual(['The plane of X and Y', 'The plane of Y and Z', 'Mid'])
    await long.type('choose-it', 'step:s5')
    expect(now()).toBe('step:s5')
  })
  it('sketches, their lines, bodies of other parts', async () => {
    let d = await draw('sketch', 's1')
    expect(d.text('option')).toEqual(['Outline', 'Holes'])
    await d.type(d.all('select')[0], 's3')
    expect(now()).toBe('s3')
    d.gone()
    d = await draw('axis', 'y_axis', { of: 'sketch' }, { sketch: 's1' })
    expect(d.text('option')).toEqual(['Y axis of the sketch', 'X axis of the sketch', 'aid l1', 'line l2'])
    d.gone()
    const line = (id: string, name: string, of = 'part'): object => ({ id, name, kind: of })
    server.on('get /api/shelf', {
      projects: [
        { id: 'p1', documents: [line('d1', 'Drum'), line('d2', 'Lid'), line('d3', 'Roaster', 'assembly')] },
        { id: 'p2', documents: [line('d4', 'Elsewhere')] },
      ],
    })
    d = await draw('part', '')
    expect(d.text('option')).toEqual(['choose', 'Lid'])
    await d.type('choose-part', 'd2')
    expect(now()).toBe('d2')
    d.gone()
    d = await draw('part_body', '', { of: 'other' }, { other: 'd2' })
    expect(d.text('option')).toEqual(['all of them', 'Drum', 'Lid'])
  })
  it('yes or no, a word of one’s own', async () => {
    let d = await draw('toggle', false)
    await d.click(d.all('input')[0])
    expect(now()).toBe(true)
    d.gone()
    d = await draw('name', 'Hinge')
    await d.type('field-it', 'Latch')
    expect(now()).toBe('Latch')
  })
})

describe('several', () => {
  it('bodies only where there is a choice, those that are gone can be left out', async () => {
    let d = await draw('bodies', ['b1', 'b9'])
    expect(d.text('.chip.on')).toEqual(['Drum', 'a body that is gone'])
    await d.click(d.all('.chip.gone')[0])
    expect(now()).toEqual(['b1'])
    await d.click(d.all('.chip')[1])
    expect(now()).toEqual(['b1', 'b2'])
    d.gone()
    useEdited().before = { bodies: [bodies[0]], steps: [] } as never
    d = await draw('bodies', [])
    expect(d.all('.chip')).toEqual([])
  })
  it('sketches keep the order they were chosen in', async () => {
    const d = await draw('sketches', ['s3'])
    await d.click(d.all('.chip')[0])
    expect(now()).toEqual(['s3', 's1'])
    expect(d.text('.chip')).toEqual(['2Outline', '1Holes'])
  })
  it('steps that can be copied, or any that did something', async () => {
    let d = await draw('steps', [])
    expect(d.text('.chip')).toEqual(['Block'])
    await d.click(d.all('.chip')[0])
    expect(now()).toEqual(['s2'])
    d.gone()
    d = await draw('steps', [], { any: true })
    expect(d.text('.chip')).toEqual(['Block'])
  })
  it('numbers are read from any list, sorted, each once', async () => {
    const d = await draw('numbers', [3], { marks: true })
    await d.type('field-it', '7, 2;2 x 11')
    expect(now()).toEqual([2, 7, 11])
    expect(d.find('picks-it').classList).not.toContain('on')
    await d.click('picks-it')
    expect(useEdited().focus).toBe('it')
  })
  it('picks are counted, cleared, and taken by sets that gather their kind', async () => {
    const d = await draw('picks', [pick('a'), pick('b')])
    expect(d.text('.pickbox')).toEqual(['2 edges'])
    await d.click('set-it-s4')
    expect((now() as { kind: string }[]).map((p) => p.kind)).toEqual(['edge', 'edge', 'set'])
    await d.click('set-it-s4')
    expect((now() as object[]).length).toBe(2)
    await d.click(d.all('[aria-label=Clear]')[0])
    expect([now(), d.text('.pickbox')]).toEqual([[], ['none yet']])
    d.gone()
    const faces = await draw('picks', [], { accepts: 'face' })
    expect(faces.all('.chip')).toEqual([])
  })
  it('regions and curves say what none means, and how they are chosen', async () => {
    let d = await draw('regions', [])
    expect(d.text('.pickbox')).toEqual(['all but holes'])
    await d.click('whole-it')
    expect([useEdited().whole, useEdited().focus]).toEqual([true, 'it'])
    d.gone()
    d = await draw('curves', [{}])
    expect(d.text('.pickbox')).toEqual(['1 curve'])
    d.gone()
    d = await draw('points', [])
    expect([d.text('.pickbox'), d.all('.segmented')]).toEqual([['all loose points'], []])
  })
})

describe('rows of their own', () => {
  it('places: each number typed, one left out', async () => {
    const at = (...n: string[]): object[] => n.map((formula) => ({ formula }))
    const d = await draw('spots', [
      { id: 'h1', at: at('0 mm', '1 mm', '2 mm') },
      { id: 'h2', at: at('5 mm', '5 mm', '5 mm') },
    ])
    expect(d.text('.pickbox')).toEqual(['2 places'])
    await d.type('spot-h2-1', '8')
    expect(now()).toEqual([
      { id: 'h1', at: at('0 mm', '1 mm', '2 mm') },
      { id: 'h2', at: at('5 mm', '8 mm', '5 mm') },
    ])
    await d.click(d.all('[aria-label="Leave it out"]')[0])
    expect((now() as { id: string }[]).map((s) => s.id)).toEqual(['h2'])
  })
  it('groups of edges with a size each: a new one takes the clicks', async () => {
    const d = await draw('sized', [{ picks: [pick('a')], size: { formula: '2 mm' } }])
    expect(d.text('.pickbox')).toEqual(['1 edge'])
    await d.click('another-it')
    expect([(now() as object[]).length, useEdited().focus]).toEqual([2, 'it.1'])
    await d.type('size-it-1', '3.')
    expect((now() as { size: { formula: string } }[])[1].size.formula).toBe('3. mm')
    expect(d.find<HTMLInputElement>('size-it-1').value).toBe('3.')
    await d.click(d.all('[aria-label="Leave it out"]')[0])
    expect([(now() as { size: { formula: string } }[]).map((r) => r.size.formula), useEdited().focus]).toEqual([['3. mm'], null])
  })
  it('numbers that grow from copy to copy: only those of the chosen steps, each once', async () => {
    const d = await draw('varied', [], {}, { steps: ['s2'] })
    await d.click('vary-it')
    expect(now()).toEqual([{ step: 's2', field: 'length', by: { formula: '1 mm' } }])
    expect([d.text('option'), d.all('[data-testid=vary-it]')]).toEqual([['Block: Length'], []])
    await d.type(d.all('input')[0], '2.5')
    expect(now()).toEqual([{ step: 's2', field: 'length', by: { formula: '2.5 mm' } }])
    await d.click(d.all('[aria-label="Leave it out"]')[0])
    expect(now()).toEqual([])
  })
})
