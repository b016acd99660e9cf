import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { Refused, refused, Server, settled } from '../testing/server'
import { PLAIN, units } from '../ui/units'
import { useShown } from './shown'
import { useDocument, useRegistries } from './store'

const view = (revision: number, more: Record<string, unknown> = {}, document: Record<string, unknown> = {}): Record<string, unknown> => ({
  id: 'd1',
  project: 'p1',
  kind: 'part',
  revision,
  undo: null,
  redo: null,
  document: { kind: 'part', name: 'Drum', steps: [], parameters: [], material: 'steel', ...document },
  ...more,
})
const built = (revision: number, more: Record<string, unknown> = {}): Record<string, unknown> => ({
  revision,
  bodies: [],
  steps: [],
  ...more,
})
let server: Server
const here = async (
  more: Record<string, unknown> = {},
  document: Record<string, unknown> = {},
): Promise<ReturnType<typeof useDocument>> => {
  server.on('get /api/documents/*', view(1, more, document))
  const doc = useDocument()
  await doc.open('d1', (kind) => kind === 'part')
  server.asked.length = 0
  return doc
}

beforeEach(() => {
  server = new Server()
    .on('get /api/projects/*/materials', { materials: [{ id: 'steel', name: 'Steel' }] })
    .on('get /api/documents/*/build', ({ query }: { query: Record<string, string> }) => built(Number(query.revision)))
})

afterEach(() => useDocument().close())

describe('the open document', () => {
  it('brings its units, its material and its build', async () => {
    const doc = await here({}, { units: { length: 'in', places: 4 } })
    expect(units.value).toEqual({ ...PLAIN, length: 'in', places: 4 })
    expect(doc.material?.name).toBe('Steel')
    expect(doc.build).toMatchObject({ revision: 1 })
    expect([doc.part?.name, doc.assembly, doc.study, doc.building]).toEqual(['Drum', null, null, false])
    doc.close()
    expect([doc.view, doc.build, doc.messages]).toEqual([null, null, []])
    await settled()
    expect(units.value).toEqual(PLAIN)
  })

  it('edits one after the other, each on what the one before left', async () => {
    const doc = await here()
    let kept = 1
    server.on('post /api/documents/*/commands', () => view(++kept))
    const done = await Promise.all(['a', 'b', 'c'].map((name) => doc.edit([{ do: 'rename', name }])))
    expect(done).toEqual([true, true, true])
    const sent = server.asked.filter((a) => a.path.endsWith('/commands')).map((a) => a.body as { base: number })
    expect(sent.map((b) => b.base)).toEqual([1, 2, 3])
    expect(doc.build).toMatchObject({ revision: 4 })
  })

  it('keeps on after an edit that was refused, and says why it was', async () => {
    const doc = await here()
    server.on('post /api/documents/*/commands', refused(422, 'width must be more than 0 mm', { where: ['step:s1'] }))
    expect(await doc.edit([{ do: 'x' }])).toBe(false)
    expect(doc.failure?.text).toBe('width must be more than 0 mm')
    expect(doc.messages[0]).toMatchObject({ tone: 'bad', where: ['step:s1'] })
    server.on('post /api/documents/*/commands', view(2))
    expect(await doc.edit([{ do: 'x' }])).toBe(true)
    expect([doc.failure, doc.view?.revision, doc.saving]).toEqual([null, 2, false])
  })

  it('takes what another window kept when its own edit came too late', async () => {
    const doc = await here()
    const stale = { error: { code: 'stale', text: 'changed meanwhile', where: [], offers: [] }, head: 5, changes: [] }
    server.on('post /api/documents/*/commands', new Refused(409, stale)).on('get /api/documents/*', view(5))
    expect(await doc.edit([{ do: 'x' }])).toBe(false)
    expect([doc.view?.revision, doc.touched > 0]).toEqual([5, true])
    expect(doc.failure?.code).toBe('stale')
  })

  it('shows the newest build, whatever order they come in', async () => {
    const doc = await here()
    server.hold()
    const first = doc.rebuild()
    const second = doc.rebuild()
    await settled()
    server.on('get /api/documents/*/build', built(99))
    await server.release(1)
    expect([doc.build?.revision, doc.building]).toEqual([99, false])
    server.on('get /api/documents/*/build', built(1))
    await server.release(0)
    await Promise.all([first, second])
    expect(doc.build?.revision).toBe(99)
  })

  it('says what a build lost and where results could not be kept', async () => {
    const doc = await here()
    server.on('get /api/documents/*/build', built(1, { lost_paints: 2, cache_trouble: 'the disk is full' }))
    await doc.rebuild()
    expect(doc.messages.map((m) => m.text)).toEqual([
      'Results cannot be kept on disk: the disk is full',
      '2 painted faces are no longer there: pick and paint anew',
    ])
    server.on('get /api/documents/*/build', refused(500, 'the kernel went down'))
    await doc.rebuild()
    expect([doc.failure?.text, doc.building]).toEqual(['the kernel went down', false])
  })

  it('follows other windows, not itself, and parts it takes bodies from', async () => {
    const doc = await here({}, { steps: [{ id: 's1', name: 'Base', kind: 'import', fields: { document: 'd2' } }] })
    server.on('get /api/documents/*', view(2))
    await server.tell({ kind: 'document', id: 'd1', project: 'p1', revision: 1 })
    expect(server.asked).toEqual([])
    await server.tell({ kind: 'document', id: 'd2', project: 'p1', revision: 9 })
    expect(server.paths()).toEqual(['get /api/documents/d1/build'])
    await server.tell({ kind: 'document', id: 'd3', project: 'p2', revision: 9 })
    expect(server.asked.length).toBe(1)
    await server.tell({ kind: 'document', id: 'd1', project: 'p1', revision: 2 })
    expect([doc.view?.revision, doc.messages[0].text]).toEqual([2, 'Changed in another window'])
    // It takes nothing from others any more.
    server.asked.length = 0
    await server.tell({ kind: 'document', id: 'd2', project: 'p1', revision: 10 })
    expect(server.asked).toEqual([])
  })

  it('tells what a build is at, by the name of the step', async () => {
    const doc = await here({}, { steps: [{ id: 's1', name: 'Base', kind: 'extrude', fields: {} }] })
    await server.tell({ kind: 'building', id: 'd1', step: 's1', searching: true })
    expect([doc.stage, doc.searching]).toEqual(['Base', true])
    await server.tell({ kind: 'building', id: 'd9', step: 's2' })
    expect([doc.stage, doc.searching]).toEqual(['Base', true])
    await doc.rebuild()
    expect([doc.stage, doc.searching]).toEqual(['', false])
  })

  it('of a kind that is not built step by step tells others changed', async () => {
    const doc = await here({ kind: 'assembly' }, { kind: 'assembly' })
    expect(doc.build).toBeNull()
    const before = doc.touched
    await server.tell({ kind: 'document', id: 'd2', project: 'p1', revision: 3 })
    expect(doc.touched).toBe(before + 1)
  })

  it('goes back and forth only where there is somewhere to go', async () => {
    const doc = await here()
    await doc.undo()
    await doc.redo()
    expect(server.asked).toEqual([])
    server.on('get /api/documents/*', view(1, { undo: 'add Block' }))
    await doc.open('d1', () => false)
    server.on('post /api/documents/*/undo', view(2, { redo: 'add Block' }))
    await doc.undo()
    expect([doc.view?.revision, doc.view?.redo]).toEqual([2, 'add Block'])
    server.on('post /api/documents/*/redo', refused(409, 'changed meanwhile'))
    await doc.redo()
    expect([doc.failure?.text, doc.saving]).toEqual(['changed meanwhile', false])
  })

  it('keeps the last messages, the newest first', async () => {
    const doc = await here()
    for (let k = 0; k < 230; k++) doc.say(`said ${k}`)
    expect([doc.messages.length, doc.messages[0].text, doc.messages.at(-1)!.text]).toEqual([200, 'said 229', 'said 30'])
    expect(doc.refused(new Error('out of order'))).toMatchObject({ code: 'internal', text: 'Error: out of order' })
  })

  it('tries again and stops looking only for what is open', async () => {
    const doc = await here()
    server.on('post /api/documents/*/retry', {}).on('post /api/documents/*/stop-search', {})
    await doc.retry()
    await doc.stopSearch()
    expect(server.paths()).toEqual(['post /api/documents/d1/retry', 'get /api/documents/d1/build', 'post /api/documents/d1/stop-search'])
    doc.close()
    server.asked.length = 0
    await doc.retry()
    await doc.stopSearch()
    await doc.rebuild()
    expect(await doc.edit([])).toBe(false)
    expect(server.asked).toEqual([])
  })
})

describe('kinds of steps', () => {
  it('are asked for once', async () => {
    server.on('get /api/kinds', { steps: [{ kind: 'extrude', fields: [] }], tools: [] })
    const kinds = useRegistries()
    expect(kinds.steps).toEqual([])
    await kinds.load()
    await kinds.load()
    expect(server.asked.length).toBe(1)
    expect([kinds.kind('extrude')?.kind, kinds.kind('nothing')]).toEqual(['extrude', undefined])
  })
})

describe('what is shown', () => {
  it('alone means all others are hidden; again brings them back', async () => {
    const doc = await here()
    doc.build = built(1, { bodies: ['a', 'b', 'c'].map((id) => ({ id })) }) as never
    const shown = useShown()
    shown.isolate('b')
    expect([...shown.hidden].sort()).toEqual(['a', 'c'])
    shown.isolate('c')
    expect([...shown.hidden].sort()).toEqual(['a', 'b'])
    shown.isolate('c')
    expect(shown.hidden.size).toBe(0)
    shown.toggle('a')
    shown.isolate('a')
    expect([...shown.hidden].sort()).toEqual(['b', 'c'])
    shown.toggle('b')
    expect([...shown.hidden]).toEqual(['c'])
  })
  it('a single body stays when it is shown alone', async () => {
    const doc = await here()
    doc.build = built(1, { bodies: [{ id: 'a' }] }) as never
    const shown = useShown()
    shown.isolate('a')
    expect(shown.hidden.size).toBe(0)
  })
  it('is forgotten with the document', async () => {
    const doc = await here()
    const shown = useShown()
    shown.toggle('a')
    shown.haunt('s1', [[[0, 0, 0]]] as never)
    shown.picked = [{} as never]
    doc.view = view(1, { id: 'd2' }) as never
    await settled()
    expect([shown.hidden.size, shown.ghosts, shown.picked]).toEqual([0, {}, []])
  })
})
