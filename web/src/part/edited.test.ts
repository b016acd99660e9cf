import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useDocument, useRegistries } from '../document/store'
import { opened, told } from '../testing/document'
import { refused, Server, settled } from '../testing/server'
import { holds, useEdited } from './edited'

const field = (name: string, type: string, more: Record<string, unknown> = {}): Record<string, unknown> => ({
  name,
  type,
  label: name,
  free: false,
  default: null,
  when: {},
  ...more,
})
const KINDS = {
  steps: [
    { kind: 'sketch', label: 'Sketch', fields: [] },
    {
      kind: 'extrude',
      label: 'Extrude',
      fields: [
        field('sketch', 'sketch'),
        field('length', 'quantity', { default: { formula: '10 mm' } }),
        field('result', 'choice', { default: 'new', words: { new: 'New', add: 'Add', cut: 'Cut' } }),
        field('ends', 'choice', { default: 'one', words: { one: 'One', two: 'Two' } }),
        field('other', 'quantity', { when: { ends: ['two'] } }),
      ],
    },
    { kind: 'round', label: 'Round', fields: [field('edges', 'picks', { accepts: 'edge' }), field('radius', 'quantity')] },
  ],
  tools: [],
}
const steps = [
  { id: 's1', name: 'Outline', kind: 'sketch', fields: {} },
  { id: 's2', name: 'Block', kind: 'extrude', fields: { sketch: 's1', length: { formula: '20 mm' } } },
  { id: 's3', name: 'Holes', kind: 'sketch', fields: {} },
]
const pick = (name: string): never => ({ body: 'b_s2', kind: 'edge', name: [name], witness: { at: [0, 0, 0] } }) as never
let server: Server

/** Trials wait a moment for more to be typed. */
async function tried(): Promise<void> {
  await vi.advanceTimersByTimeAsync(100)
  await settled()
}
async function begun(bodies = 1, kind = 'extrude'): Promise<ReturnType<typeof useEdited>> {
  server.on('get /api/documents/*/build', { bodies: Array.from({ length: bodies }, (_, k) => ({ id: `b${k}` })), steps: [] })
  await opened(server, { steps, last_id: 3 })
  await useRegistries().load()
  const edited = useEdited()
  await edited.begin(kind)
  server.asked.length = 0
  return edited
}

beforeEach(() => {
  vi.useFakeTimers()
  server = new Server().on('get /api/kinds', KINDS).on('post /api/documents/*/try', { bodies: [], steps: [] })
})
afterEach(() => {
  useEdited().discard()
  useDocument().close()
  vi.useRealTimers()
})

describe('what a field is in use for', () => {
  it('is one of the words, or none of those barred', () => {
    expect([holds(['two'], 'two'), holds(['two'], 'one')]).toEqual([true, false])
    expect([holds(['!two'], 'two'), holds(['!two'], 'one'), holds(['!two', '!three'], 'three')]).toEqual([false, true, false])
  })
})

describe('a step begun', () => {
  it('starts with its defaults, the newest sketch nothing grew from, added to what is there', async () => {
    const edited = await begun()
    expect(edited.fields).toEqual({ sketch: 's3', length: { formula: '10 mm' }, result: 'add', ends: 'one' })
    expect(edited.shownFields.map((f) => f.name)).toEqual(['sketch', 'length', 'result', 'ends'])
    expect([edited.index, edited.open, edited.missing]).toEqual([3, true, null])
    edited.set('ends', 'two')
    expect(edited.shownFields.map((f) => f.name)).toContain('other')
  })
  it('stays a new body where there is none yet, and leaves the registry’s defaults alone', async () => {
    const edited = await begun(0)
    expect(edited.fields.result).toBe('new')
    ;(edited.fields.length as { formula: string }).formula = '99 mm'
    await edited.begin('extrude')
    expect(edited.fields.length).toEqual({ formula: '10 mm' })
  })
  it('is tried once typing pauses, just after itself', async () => {
    const edited = await begun()
    await tried()
    server.asked.length = 0
    for (const n of [1, 12, 125]) edited.set('length', { formula: `${n} mm` })
    await tried()
    const asked = server.asked.filter((a) => a.path.endsWith('/try'))
    expect(asked.length).toBe(1)
    expect(asked[0].body).toMatchObject({
      upto: 4,
      commands: [{ do: 'add_step', kind: 'extrude', fields: { length: { formula: '125 mm' } } }],
    })
    expect(useDocument().view?.revision).toBe(1)
  })
  it('shows the last trial, whatever order they come back in', async () => {
    const edited = await begun()
    await tried()
    server.hold()
    edited.set('length', { formula: '1 mm' })
    await tried()
    edited.set('length', { formula: '2 mm' })
    await tried()
    server.on('post /api/documents/*/try', { bodies: [{ id: 'second' }], steps: [] })
    await server.release(1)
    server.on('post /api/documents/*/try', { bodies: [{ id: 'first' }], steps: [] })
    await server.release(0)
    expect(edited.trial?.bodies[0].id).toBe('second')
    expect(edited.trying).toBe(false)
  })
  it('says what is wrong with it: the step by its report, or the whole by a refusal', async () => {
    const edited = await begun()
    const bad = { text: 'too short', where: [], offers: [], code: 'x' }
    server.on('post /api/documents/*/try', { bodies: [], steps: [{ id: 's1' }, { id: 's2' }, { id: 's3' }, { id: 's4', error: bad }] })
    await tried()
    expect(edited.error?.text).toBe('too short')
    server.on('post /api/documents/*/try', refused(422, '"abc" is no length'))
    edited.set('length', { formula: 'abc' })
    await tried()
    expect(edited.error?.text).toBe('"abc" is no length')
  })
  it('is not tried, nor kept, while something needed is not picked', async () => {
    const edited = await begun(1, 'round')
    await tried()
    expect(edited.missing).toBe('Pick edges')
    expect(server.asked).toEqual([])
    expect(await edited.keep()).toBe(false)
    edited.takeClick(pick('a'), {} as never)
    expect(edited.missing).toBeNull()
    expect(edited.focus).toBe('edges')
    edited.takeClick(pick('b'), {} as never)
    edited.takeClick(pick('a'), {} as never)
    expect(edited.focused.map((p) => p.name)).toEqual([['b']])
    await tried()
    expect(server.paths()).toEqual(['post /api/documents/d1/try'])
  })
  it('is kept under its name, then nothing is open', async () => {
    const edited = await begun()
    edited.name = 'Lid'
    server.on('post /api/documents/*/commands', told(2, { steps }))
    expect(await edited.keep()).toBe(true)
    expect(server.last('/commands').body).toMatchObject({ label: 'add Lid', commands: [{ do: 'add_step', name: 'Lid' }] })
    expect([edited.open, edited.trial, edited.fields]).toEqual([false, null, {}])
  })
  it('stays open with what was typed when keeping is refused', async () => {
    const edited = await begun()
    server.on('post /api/documents/*/commands', refused(422, 'no room'))
    expect(await edited.keep()).toBe(false)
    expect([edited.open, edited.error?.text, edited.fields.sketch]).toEqual([true, 'no room', 's3'])
  })
})

describe('a step opened', () => {
  it('shows what it holds over the defaults and edits that very step', async () => {
    await begun()
    const edited = useEdited()
    await edited.edit('s2')
    expect(edited.fields).toMatchObject({ sketch: 's1', length: { formula: '20 mm' }, result: 'new' })
    edited.name = 'Plate'
    server.on('post /api/documents/*/commands', told(2, { steps }))
    await edited.keep()
    const { commands } = server.last('/commands').body as { commands: { do: string }[] }
    expect(commands.map((c) => c.do)).toEqual(['edit_step', 'rename_step'])
  })
  it('is not renamed to nothing, nor by opening it', async () => {
    await begun()
    const edited = useEdited()
    server.on('post /api/documents/*/commands', told(2, { steps }))
    for (const name of ['   ', 'Block']) {
      await edited.edit('s2')
      edited.name = name
      await edited.keep()
      expect((server.last('/commands').body as { commands: { do: string }[] }).commands.map((c) => c.do)).toEqual(['edit_step'])
    }
  })
  it('that is nowhere opens nothing', async () => {
    await begun()
    const edited = useEdited()
    edited.discard()
    await edited.edit('s9')
    expect(edited.open).toBe(false)
  })
})

describe('offers of the server', () => {
  it('put values where they belong, leaving their neighbours', async () => {
    const edited = await begun()
    edited.set('place', { x: 1, y: 2 })
    edited.take({ fields: { 'place.x': 5, length: { formula: '7 mm' } } })
    expect(edited.fields).toMatchObject({ place: { x: 5, y: 2 }, length: { formula: '7 mm' } })
  })
  it('with commands keep the step and do them in one edit', async () => {
    const edited = await begun()
    server.on('post /api/documents/*/commands', told(2, { steps }))
    edited.take({ commands: [{ do: 'set_parameter' }] })
    await settled()
    expect((server.last('/commands').body as { commands: { do: string }[] }).commands.map((c) => c.do)).toEqual([
      'add_step',
      'set_parameter',
    ])
    expect(edited.open).toBe(false)
  })
  it('replace a lost pick wherever it stands, however deep', async () => {
    const edited = await begun()
    const old = { body: 'b', kind: 'edge', name: ['x'], witness: null }
    edited.set('edges', [old, pick('y')])
    edited.set('plane', { face: { ...old }, offset: null })
    edited.replace(old, pick('new'))
    expect(edited.fields.edges).toEqual([pick('new'), pick('y')])
    expect(edited.fields.plane).toEqual({ face: pick('new'), offset: null })
  })
})
