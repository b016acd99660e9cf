import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useDocument, useRegistries } from '../document/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { refused, Server, settled } from '../testing/server'
import JointEditor from './JointEditor.vue'
import { natureOf, proposed, useJoining } from './joining'
import { type End, useAssembly } from './store'

const turn = { name: 'turn', label: 'Angle', unit: 'deg' }
const slide = { name: 'slide', label: 'Travel', unit: 'mm' }
const kind = (word: string, more: object = {}): object => ({
  kind: word,
  label: word[0].toUpperCase() + word.slice(1),
  icon: 'link',
  line: '',
  family: 'Joint',
  coordinates: [],
  factor: null,
  picks: [1, 1],
  shifts: true,
  hint: '',
  best: [],
  ...more,
})
const KINDS = [
  kind('fixed'),
  kind('revolute', { coordinates: [turn], best: ['circle circle'] }),
  kind('cylindrical', { coordinates: [turn, slide], best: ['axis axis', 'axis circle'] }),
  kind('helical', { coordinates: [slide], factor: { label: 'Pitch', dimension: 'length', default: '2 mm' } }),
  kind('distance', { family: 'Condition', coordinates: [{ ...slide, name: 'distance', label: 'Distance' }], best: ['plane point'] }),
  kind('centred', { family: 'Condition', picks: [2, 2], hint: 'Two faces on one component' }),
  kind('symmetric', { family: 'Condition', mirrors: true }),
  kind('gear', { family: 'Drive', factor: { label: 'Ratio', dimension: 'number', default: '1' } }),
]
const end = (component: string, form = 'circle', of = 'edge', name = 'x'): End =>
  ({ component, path: [], pick: { body: 'b', kind: of, name: [name], witness: { kind: form } } }) as unknown as End
const seen = (more: Record<string, unknown> = {}): Record<string, unknown> => ({
  components: [
    { id: 'c1', freedom: 0, matrix: [], placement: { p: [0, 0, 0], q: [1, 0, 0, 0] } },
    { id: 'c2', freedom: 1, matrix: [], placement: { p: [5, 0, 0], q: [1, 0, 0, 0] } },
  ],
  joints: [{ id: 'j3', coordinates: [{ name: 'turn', value: 12.3456 }], trouble: null }],
  ...more,
})
let server: Server

async function joining(word: string | null = null): Promise<ReturnType<typeof useJoining>> {
  const components = ['c1', 'c2', 'c3'].map((id) => ({ id, name: `Part ${id}` }))
  await opened(server, { kind: 'assembly', components, joints: [], last_id: 2 }, { kind: 'assembly' })
  await useRegistries().load()
  const made = useJoining()
  made.begin(word)
  server.asked.length = 0
  return made
}
async function tried(): Promise<void> {
  await vi.advanceTimersByTimeAsync(200)
  await settled()
}
type Sent = { commands: { do: string; kind: string; motions: Record<string, unknown>; [k: string]: unknown }[] }
const sent = (path = '/try'): Sent['commands'][0] => (server.last(path).body as Sent).commands[0]

beforeEach(() => {
  vi.useFakeTimers()
  server = new Server()
    .on('get /api/kinds', { steps: [], tools: [], joints: KINDS })
    .on('get /api/documents/*/assembly', seen())
    .on('post /api/documents/*/assembly/try', seen())
})
afterEach(() => {
  useJoining().discard()
  useDocument().close()
  vi.useRealTimers()
})

describe('what a pick is to a joint', () => {
  it('is told by its form', () => {
    const of = (form: string, on: string): string => natureOf(end('c1', form, on).pick!)
    expect([of('plane', 'face'), of('cylinder', 'face'), of('torus', 'face'), of('sphere', 'face')]).toEqual([
      'plane',
      'axis',
      'axis',
      'point',
    ])
    expect([of('circle', 'edge'), of('line', 'edge'), of('point', 'vertex')]).toEqual(['circle', 'line', 'point'])
  })
  it('proposes a kind, in whatever order the two were picked, or none', () => {
    const [plane, point, circle] = [end('c1', 'plane', 'face'), end('c2', 'point', 'vertex'), end('c2', 'circle')].map((e) => e.pick)
    const kinds = KINDS as never
    expect(proposed(kinds, plane, point)?.kind).toBe('distance')
    expect(proposed(kinds, point, plane)?.kind).toBe('distance')
    expect(proposed(kinds, circle, circle)?.kind).toBe('revolute')
    expect(proposed(kinds, plane, circle)).toBeNull()
  })
})

describe('two picks', () => {
  it('make a joint of the proposed kind, looked at before it is kept', async () => {
    const j = await joining()
    j.take(end('c1'))
    await tried()
    expect([j.next, server.asked.length, j.kindName]).toEqual(['b', 0, null])
    j.take(end('c2'))
    await tried()
    expect(j.kindName).toBe('revolute')
    expect(sent()).toMatchObject({ do: 'add_joint', kind: 'revolute', flip: null, offset: '0 mm', motions: {}, a2: null })
    expect([j.left, j.stands('turn')]).toEqual([1, 12.3456])
    // The picture shows where it would go.
    expect(useAssembly().live?.c2.placement.p).toEqual([5, 0, 0])
    server.on('post /api/documents/*/commands', told(2, { kind: 'assembly' }, { kind: 'assembly' }))
    expect(await j.keep()).toBe(true)
    expect([j.open, useAssembly().live]).toEqual([false, null])
  })
  it('on the same component take the place of the first; a third takes that of the other', async () => {
    const j = await joining('revolute')
    j.take(end('c1', 'circle', 'edge', 'one'))
    j.take(end('c1', 'circle', 'edge', 'two'))
    expect([j.ends.a?.pick?.name, j.ends.a2]).toEqual([['two'], null])
    j.take(end('c2'))
    j.take(end('c3'))
    expect(j.ends.b?.component).toBe('c3')
    expect(j.next).toBeNull()
  })
  it('two faces of one component, then of another: centred between them', async () => {
    const j = await joining()
    j.take(end('c1', 'plane', 'face', 'left'))
    j.take(end('c1', 'plane', 'face', 'right'))
    j.take(end('c2', 'cylinder', 'face'))
    expect(j.kindName).toBe('centred')
    await tried()
    expect(sent()).toMatchObject({ kind: 'centred', a2: { pick: { name: ['right'] } }, b2: null })
    // Another component for the first end takes its second face away.
    j.put('a', end('c3', 'plane', 'face'))
    expect(j.ends.a2).toBeNull()
    await tried()
    expect([j.trial, j.next]).toEqual([null, 'b2'])
  })
  it('and the plane in the middle make a symmetry', async () => {
    const j = await joining('symmetric')
    j.take(end('c1', 'plane', 'face', 'left'))
    j.take(end('c2', 'plane', 'face', 'right'))
    await tried()
    expect([j.next, server.asked.length]).toEqual(['mirror', 0])
    j.take(end('c3', 'plane', 'face', 'wall'))
    j.take(end('c3', 'plane', 'face', 'other wall'))
    await tried()
    expect([j.next, j.sides]).toEqual([null, ['a', 'b', 'mirror', 'mirror2']])
    expect(sent()).toMatchObject({ kind: 'symmetric', mirror: { pick: { name: ['wall'] } }, mirror2: { component: 'c3' } })
    j.take(end('c1', 'plane', 'face', 'anew'))
    expect(j.ends.a?.pick?.name).toEqual(['anew'])
    // Another kind has no use for the plane.
    j.choose('parallel')
    expect([j.ends.mirror, j.ends.mirror2]).toEqual([null, null])
  })
  it('where no kind is made for them are held fast until another is chosen', async () => {
    const j = await joining()
    j.take(end('c1', 'plane', 'face'))
    j.take(end('c2'))
    expect(j.kindName).toBe('fixed')
    j.choose('cylindrical')
    await tried()
    expect(sent().kind).toBe('cylindrical')
  })
})

describe('what is known of a joint', () => {
  it('goes along with the units of what it measures', async () => {
    const j = await joining('cylindrical')
    j.take(end('c1'))
    j.take(end('c2'))
    j.set('turn', 'least', '-90')
    j.set('turn', 'most', '90 deg')
    j.set('slide', 'value', '12')
    j.offset = '3'
    await tried()
    expect(sent()).toMatchObject({
      offset: '3 mm',
      motions: { turn: { value: null, least: '-90 deg', most: '90 deg' }, slide: { value: '12 mm', least: null, most: null } },
    })
    expect(server.asked.length).toBe(1)
  })
  it('a motion is held where it stands, and let go', async () => {
    const j = await joining('revolute')
    j.take(end('c1'))
    j.take(end('c2'))
    await tried()
    j.hold('turn')
    expect(j.motion('turn').value).toBe('12.3456 deg')
    j.hold('turn')
    expect(j.motion('turn').value).toBe('')
  })
  it('a condition that asks for a size starts with the one there is, once', async () => {
    server.on(
      'post /api/documents/*/assembly/try',
      seen({ joints: [{ id: 'j3', coordinates: [{ name: 'distance', value: 41.5 }], trouble: null }] }),
    )
    const j = await joining('distance')
    j.take(end('c1', 'plane', 'face'))
    j.take(end('c2', 'point', 'vertex'))
    await tried()
    await tried()
    expect(sent().motions).toMatchObject({ distance: { value: '41.5 mm' } })
    j.set('distance', 'value', '')
    await tried()
    expect(sent().motions).toEqual({})
  })
  it('a number of its own is the usual one until it is typed', async () => {
    const j = await joining('helical')
    j.take(end('c1'))
    j.take(end('c2'))
    await tried()
    expect(sent().factor).toBe('2 mm')
    j.factor = '1.5'
    j.schedule(0)
    await tried()
    expect(sent().factor).toBe('1.5 mm')
    j.choose('gear')
    await tried()
    expect(sent().factor).toBe('1')
  })
})

describe('what goes wrong', () => {
  it('is told by the joint or by the server, and leaves the picks', async () => {
    const bad = { code: 'joint_end', text: 'two flat faces do not touch in a line', where: [], offers: [] }
    server.on('post /api/documents/*/assembly/try', seen({ joints: [{ id: 'j3', coordinates: [], trouble: bad }] }))
    const j = await joining('revolute')
    j.take(end('c1'))
    j.take(end('c2'))
    await tried()
    expect([j.trouble?.text, j.left]).toEqual([bad.text, null])
    server.on('post /api/documents/*/assembly/try', refused(422, 'both ends are on the same one'))
    j.turnRound()
    await tried()
    expect([j.trouble?.text, j.trial, useAssembly().live]).toEqual(['both ends are on the same one', null, null])
    server.on('post /api/documents/*/commands', refused(409, 'changed meanwhile'))
    expect(await j.keep()).toBe(false)
    expect([j.open, j.ends.a?.component]).toEqual([true, 'c1'])
  })
  it('is looked at anew when something else was kept meanwhile', async () => {
    const j = await joining('revolute')
    j.take(end('c1'))
    j.take(end('c2'))
    await tried()
    server.asked.length = 0
    useDocument().view = told(2, { kind: 'assembly', last_id: 8 }, { kind: 'assembly' }) as never
    await tried()
    expect(server.paths()).toContain('post /api/documents/d1/assembly/try')
    j.discard()
    server.asked.length = 0
    useDocument().view = told(3, { kind: 'assembly' }, { kind: 'assembly' }) as never
    await tried()
    expect(server.paths().filter((p) => p.endsWith('/try'))).toEqual([])
  })
  it('an older answer does not show over a newer one, nor over nothing', async () => {
    const j = await joining('revolute')
    j.take(end('c1'))
    j.take(end('c2'))
    server.hold()
    await tried()
    j.turnRound()
    await tried()
    await server.release(1)
    const newer = j.trial
    await server.release(0)
    expect(j.trial).toBe(newer)
    j.turnRound()
    await tried()
    j.discard()
    await server.release(2)
    expect([j.trial, useAssembly().live]).toEqual([null, null])
  })
})

describe('a joint opened', () => {
  it('shows what it holds and edits that very joint', async () => {
    const j = await joining()
    const joint = {
      id: 'j2',
      kind: 'helical',
      a: end('c1'),
      b: end('c2'),
      flip: true,
      offset: '0 mm',
      factor: '8 mm',
      motions: { slide: { value: null, least: '0 mm', most: '40 mm' } },
    }
    j.edit(joint as never)
    await tried()
    expect(sent()).toMatchObject({ do: 'edit_joint', id: 'j2', fields: { kind: 'helical', flip: true, factor: '8 mm' } })
    expect((sent().fields as { motions: unknown }).motions).toEqual({ slide: { value: null, least: '0 mm', most: '40 mm' } })
  })
})

describe('its card', () => {
  let card: Drawn
  afterEach(() => card.gone())
  it('asks for picks in words, then tells what they are and what is left', async () => {
    const j = await joining()
    card = mount(JointEditor)
    expect(card.text('.pickbox')).toEqual(['pick it in the picture', 'not picked yet'])
    expect(card.find<HTMLButtonElement>('keep-joint').disabled).toBe(true)
    j.take(end('c1', 'cylinder', 'face'))
    await settled()
    expect(card.text('.pickbox')).toEqual(['Part c1 · round face', 'pick it in the picture'])
    j.take(end('c2'))
    await tried()
    expect(card.find<HTMLSelectElement>('joint-kind').value).toBe('cylindrical')
    expect(card.text('[data-testid=joint-leaves]')).toEqual(['leaves 1 freedom'])
    expect(card.find<HTMLInputElement>('joint-value-turn').placeholder).toBe('12.35 °')
    await card.type('joint-most-slide', '30')
    await tried()
    expect(sent().motions).toMatchObject({ slide: { most: '30 mm' } })
    await card.click('end-b')
    expect([j.ends.b, card.text('.pickbox')[1]]).toEqual([null, 'pick it in the picture'])
  })
  it('offers every kind under its heading, and four picks where they lie between faces', async () => {
    const j = await joining('centred')
    card = mount(JointEditor)
    expect(card.all('optgroup').map((g) => g.getAttribute('label'))).toEqual(['Joints', 'Conditions', 'Drives'])
    expect(card.all('.pickbox').length).toBe(4)
    expect(card.root.textContent).toContain('Two faces on one component')
    await card.type('joint-kind', 'gear')
    expect([j.kindName, card.all('.pickbox').length, card.all('[data-testid=joint-offset]').length]).toEqual(['gear', 2, 0])
    await card.type('joint-factor', '20/33')
    expect(j.factor).toBe('20/33')
  })
})
