import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { useDocument } from '../document/store'
import { useJobs } from '../jobs/store'
import { opened, told } from '../testing/document'
import { type Drawn, mount } from '../testing/mount'
import { Server, settled } from '../testing/server'
import { type FitRow, useFit } from './fit'
import InterferenceResults from './InterferenceResults.vue'
import { useAssembly } from './store'

const ASSEMBLY = {
  kind: 'assembly',
  components: ['c1', 'c2', 'c3'].map((id) => ({ id, name: id })),
  joints: [],
  positions: [{ id: 'p4', name: 'Open', placements: {}, values: {} }],
  meant: [{ id: 'f8', a: 'c1', b: 'c3', reason: 'press fit', depth: '0.02 mm' }],
  last_id: 9,
}
const row = (a: string, b: string, more: Partial<FitRow> = {}): FitRow =>
  ({
    position: '', position_name: '', a: `${a}/b`, b: `${b}/b`, name_a: a, name_b: b, class: 'interference', state: 'overlap', how: ['solid'],
    gap: 0, volume: 2, depth: 0.0123, certain: true, inside: '', hardware: false, at: [0, 0, 0], way: [0, 0, 1], near: null,
    faces_a: [], faces_b: [], picture: null, news: '', ...more,
  }) as FitRow // prettier-ignore
const ROWS = [
  row('c1', 'c2', { news: 'new' }),
  row('c1', 'c3', { class: 'intended', meant: 'f8', reason: 'press fit', allowed: 0.02 }),
  row('c2', 'c3', { class: 'touching', state: 'touching' }),
]
const job = (rows = ROWS, more: object = {}): object => ({
  id: 'j1', key: 'k', kind: 'interference', document: 'd1', state: 'done', progress: 1, stage: '', request: {}, error: null, created: 1,
  result: { rows, gone: [], faults: 1, positions: [{ id: '', touching: 1 }], near: 3, pairs: 3, computed: 3, components: 3, clearance: 0, left: [] },
  ...more,
}) // prettier-ignore
let server: Server
let drawn: Drawn | null = null
const asked = (): Record<string, unknown> => (server.last('/jobs').body as { options: Record<string, unknown> }).options
const sent = (): Record<string, unknown>[] => (server.last('/commands').body as { commands: Record<string, unknown>[] }).commands

beforeEach(async () => {
  server = new Server()
    .on('get /api/documents/*/jobs', { jobs: [job()] })
    .on('get /api/documents/*/jobs/current', { current: { j1: false } })
    .on('get /api/jobs/*', job())
    .on('post /api/documents/*/jobs', job())
    .on('get /api/documents/*/assembly', { components: [], leaves: [], joints: [], copies: [], troubles: [] })
    .on('post /api/documents/*/commands', told(2, ASSEMBLY, { kind: 'assembly' }))
  await opened(server, ASSEMBLY, { kind: 'assembly' })
  await useJobs().open(useDocument().view!.id)
  await settled()
})
afterEach(() => {
  drawn?.gone()
  drawn = null
  useJobs().close()
  useAssembly().close()
  useDocument().close()
})

describe('overlaps', () => {
  it('stand under what they mean, what only touches folded, and say that they are out of date', async () => {
    drawn = mount(InterferenceResults)
    await settled()
    expect(useFit().groups.map((g) => [g.key, g.rows.length, g.folded])).toEqual([
      ['bad', 1, false],
      ['intended', 1, false],
      ['touching', 1, true],
    ])
    expect(drawn.find('fit-bad').textContent).toMatch(/c1 × c2 new.*0\.0123 mm/s)
    expect(drawn.find<HTMLInputElement>('meant-reason').value).toBe('press fit')
    expect(drawn.find('fit-old').textContent).toContain('out of date')
    await drawn.click(drawn.find('fit-touching').querySelector<HTMLElement>('.head')!)
    expect(drawn.find('fit-touching').textContent).toContain('c2 × c3')
  })
  it('are looked for as was wished, and only what differs from the usual is asked', async () => {
    const fit = useFit()
    await fit.run()
    expect(asked()).toEqual({})
    Object.assign(fit.wish, { inside: false, clearance: 2, positions: ['p4'] })
    useAssembly().selected = ['c1', 'c2']
    await fit.run()
    expect(asked()).toEqual({ components: ['c1', 'c2'], positions: ['p4'], inside: false, clearance: 2 })
  })
  it('are meant with a tenth of room, between the parts that bear the bodies, and not meant any more', async () => {
    drawn = mount(InterferenceResults)
    await drawn.click('mean')
    await settled()
    expect(sent()).toEqual([{ do: 'mark_meant', a: 'c1', b: 'c2', reason: 'press fit', depth: '0.014 mm' }])
    await drawn.type('meant-depth', 'press_depth')
    await settled()
    expect(sent()).toEqual([{ do: 'edit_meant', id: 'f8', depth: 'press_depth' }])
    await drawn.click('unmean')
    await settled()
    expect(sent()).toEqual([{ do: 'remove_meant', id: 'f8' }])
  })
  it('are shown with the pair see-through or solid, and all others as ghosts', async () => {
    const fit = useFit()
    const bodies = ['c1', 'c2', 'c3'].map((id) => ({ id: `${id}/b`, mesh: {}, colour: '#999999' })) as never
    expect(fit.drawn(bodies)).toBe(bodies)
    await fit.look(ROWS[0])
    expect(fit.drawn(bodies).map((b) => b.ghost)).toEqual([false, false, true])
    fit.neighbours = true
    expect(fit.drawn(bodies).map((b) => Boolean(b.ghost))).toEqual([false, false, false])
    fit.leave()
    expect(fit.drawn(bodies)).toBe(bodies)
  })
  it('of an older version are told no more', async () => {
    server.on('get /api/jobs/*', { ...job(), result: { clashes: [], volume: 0 } })
    await useJobs().refresh('j1')
    expect(useFit().result).toBeNull()
  })
})
