// The stores behind the drawer's tabs: parameters, checks, scripts, and the work they start.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useChecks } from '../checks/store'
import { useDocument } from '../document/store'
import { useJobs } from '../jobs/store'
import { useParameters } from '../parameters/store'
import { useScripts } from '../scripts/store'
import { opened, told } from '../testing/document'
import { refused, Server, settled } from '../testing/server'

let server: Server
beforeEach(() => {
  server = new Server()
    .on('get /api/documents/*/build', { bodies: [], steps: [] })
    .on('get /api/documents/*/uses', { uses: { width: [{ id: 's1', name: 'Block' }] } })
    .on('get /api/projects/*/scripts', { scripts: [{ name: 'fit', text: 'print(1)' }] })
})
afterEach(() => {
  useChecks().close()
  useJobs().close()
  useDocument().close()
  vi.useRealTimers()
})

describe('parameters', () => {
  it('know what uses them, of the document that is open', async () => {
    const doc = await opened(server)
    const p = useParameters()
    await settled()
    expect(p.uses.width.length).toBe(1)
    server.hold()
    doc.view = told(2) as never
    await settled()
    doc.view = null
    await settled()
    await server.release(0)
    expect(p.uses).toEqual({})
  })
  it('foresee what was typed last, once typing pauses, and what cannot be done', async () => {
    vi.useFakeTimers()
    await opened(server)
    const p = useParameters()
    server.on('post /api/documents/*/foresee', ({ body }: { body: { commands: { to: string }[] } }) => ({ said: body.commands[0].to }))
    for (const to of ['1', '12', '120']) p.foresee([{ do: 'set', to }])
    await vi.advanceTimersByTimeAsync(400)
    expect([p.foreseen, server.asked.filter((a) => a.path.endsWith('/foresee')).length]).toEqual([{ said: '120' }, 1])
    server.on('post /api/documents/*/foresee', refused(422, 'width is used by Block'))
    p.foresee([{ do: 'set', to: '' }])
    await vi.advanceTimersByTimeAsync(400)
    expect(p.foreseen).toEqual({ refused: 'width is used by Block' })
    p.foresee(null)
    expect(p.foreseen).toBeNull()
  })
  it('that are in trouble name who uses them and what would do', async () => {
    await opened(server)
    const p = useParameters()
    await settled()
    p.values = {
      width: { trouble: { text: 'more than 40 mm', offers: [{ words: '40 mm', commands: [{ do: 'x' }] }] } },
      depth: { trouble: null },
    } as never
    expect(p.troubled.map((t) => t.name)).toEqual(['width'])
    expect([...p.troubledUsers.keys()]).toEqual(['s1'])
    server.on('post /api/documents/*/commands', told(2))
    await p.take(p.troubled[0].offers[0] as never)
    expect(server.last('/commands').body).toMatchObject({ commands: [{ do: 'x' }] })
  })
  it('load the words of formulas once', async () => {
    server.on('get /api/formula-words', { words: [{ word: 'mm', kind: 'unit' }] })
    const p = useParameters()
    await p.loadWords()
    await p.loadWords()
    expect(server.paths().filter((x) => x.endsWith('formula-words')).length).toBe(1)
  })
})

describe('checks', () => {
  const check = (id: string, state: string): object => ({ id, state })
  it('are counted by what they say; a check in trouble counts as one that fails', async () => {
    await opened(server, { checks: [{ id: 'k5', severity: 'should' }] })
    const states = ['holds', 'fails', 'trouble', 'running', 'holds', 'fails', 'old']
    server.on('get /api/documents/*/checks', { checks: states.map((s, k) => check(`k${k}`, s)) })
    const c = useChecks()
    await c.refresh()
    expect(c.counts).toEqual({ holds: 2, fails: 2, doubts: 1, stale: 2 })
  })
  it('are asked again when work of this document ends, not while it runs, nor for another', async () => {
    await opened(server, { checks: [{}] })
    server.on('get /api/documents/*/checks', { checks: [] })
    const c = useChecks()
    c.open()
    c.open()
    await settled()
    server.asked.length = 0
    await server.tell({ kind: 'job', document: 'd1', state: 'running' })
    await server.tell({ kind: 'job', document: 'd2', state: 'done' })
    expect(server.asked).toEqual([])
    await server.tell({ kind: 'job', document: 'd1', state: 'done' })
    expect(server.paths()).toEqual(['get /api/documents/d1/checks'])
    // Run by themselves after a change elsewhere.
    await server.tell({ kind: 'checks', document: 'd2' })
    await server.tell({ kind: 'checks', document: 'd1' })
    expect(server.asked.length).toBe(2)
  })
  it('ask nothing of a document that has none; picks for one are the last two', async () => {
    await opened(server)
    const c = useChecks()
    await c.refresh()
    expect(server.asked).toEqual([])
    for (const n of [1, 2, 3]) c.take({ n })
    expect(c.picked).toEqual([{ n: 2 }, { n: 3 }])
  })
  it('say why they could not be asked', async () => {
    const doc = await opened(server, { checks: [{}] })
    server.on('get /api/documents/*/checks', refused(500, 'the worker went down'))
    await useChecks().refresh()
    expect(doc.failure?.text).toBe('the worker went down')
  })
})

describe('jobs', () => {
  const job = (id: string, more: object = {}): object => ({ id, kind: 'motion', state: 'queued', progress: 0, created: 1, ...more })
  it('are taken up again, followed while they run, and asked for in full when they end', async () => {
    server.on('get /api/documents/*/jobs', { jobs: [job('j1', { state: 'running' })] })
    const jobs = useJobs()
    await jobs.open('d1')
    server.asked.length = 0
    await server.tell({ kind: 'job', id: 'j1', document: 'd1', state: 'running', progress: 0.4, stage: 'meshing' })
    expect(jobs.jobs.j1).toMatchObject({ progress: 0.4, stage: 'meshing' })
    expect(server.asked).toEqual([])
    server.on('get /api/jobs/*', job('j1', { state: 'done', result: { clashes: [] } }))
    await server.tell({ kind: 'job', id: 'j1', document: 'd1', state: 'done' })
    expect(jobs.jobs.j1).toMatchObject({ state: 'done', result: { clashes: [] } })
    await server.tell({ kind: 'job', id: 'j9', document: 'd2', state: 'done' })
    expect(Object.keys(jobs.jobs)).toEqual(['j1'])
  })
  it('are started, the newest of a kind is known, and cancelled ones say so', async () => {
    server.on('get /api/documents/*/jobs', { jobs: [job('j1', { created: 5 }), job('j2', { created: 9, kind: 'print' })] })
    const jobs = useJobs()
    await jobs.open('d1')
    expect(jobs.newest('motion')).toMatchObject({ id: 'j1' })
    server.on('post /api/documents/*/jobs', job('j3', { created: 7 }))
    await jobs.start('motion', { turns: 2 })
    expect(server.last('/jobs').body).toEqual({ kind: 'motion', options: { turns: 2 } })
    expect([(jobs.newest('motion') as { id: string } | null)?.id, jobs.newest('strength')]).toEqual(['j3', null])
    server.on('delete /api/jobs/*', {}).on('get /api/jobs/*', job('j3', { created: 7, state: 'cancelled' }))
    await jobs.cancel('j3')
    expect(jobs.jobs.j3.state).toBe('cancelled')
    jobs.close()
    expect(jobs.jobs).toEqual({})
  })
})

describe('scripts', () => {
  it('print while they run, and say what became of it', async () => {
    const doc = await opened(server)
    const s = useScripts()
    server.on('post /api/projects/*/run', { printed: [{ text: 'done', line: 2 }], trouble: null, changed: ['d1', 'd2'] })
    server.hold()
    const run = s.run()
    await settled()
    const again = s.run()
    await server.tell({ kind: 'script', project: 'p1', text: 'half way', line: 1 })
    await server.tell({ kind: 'script', project: 'p9', text: 'elsewhere', line: 1 })
    expect(s.printed.map((p) => p.text)).toEqual(['half way'])
    await server.release(0)
    await Promise.all([run, again])
    expect([s.outcome, s.printed[0].text, s.running]).toEqual(['Done: 2 documents changed.', 'done', false])
    expect(server.paths().filter((p) => p.endsWith('/run')).length).toBe(1)
    expect(doc.messages.map((m) => m.text)).toEqual(['Script: Done: 2 documents changed.', 'Script line 2: done'])
  })
  it('that stop keep nothing, and say at which line', async () => {
    const doc = await opened(server)
    const s = useScripts()
    server.on('post /api/projects/*/run', { printed: [], trouble: { text: 'no step called Lid', line: 7 }, changed: [] })
    await s.run()
    expect([s.outcome, doc.messages[0].text]).toEqual(['Stopped; nothing of it was kept.', 'Script line 7: no step called Lid'])
    server.on('post /api/projects/*/run', refused(413, 'that script is too long'))
    await s.run()
    expect(s.trouble).toEqual({ text: 'that script is too long', line: 0 })
  })
  it('record what is done by hand from where it began, behind what stood there', async () => {
    const doc = await opened(server)
    const s = useScripts()
    s.text = '# mine\n'
    server.on('get /api/documents/*/script', ({ query }: { query: { since?: string } }) => ({ text: `since ${query.since}` }))
    s.record()
    doc.view = told(2) as never
    await settled()
    expect([s.text, s.recording, s.lines]).toEqual(['# mine\n\nsince 1', true, 3])
    s.record()
    doc.view = told(3) as never
    await settled()
    expect([s.text, s.recording]).toEqual(['# mine\n\nsince 1', false])
    s.record()
    server.on('get /api/documents/*/script', refused(500, 'it cannot be told'))
    doc.view = told(4) as never
    await settled()
    expect([s.recording, doc.failure?.text]).toEqual([false, 'it cannot be told'])
  })
  it('are kept by name, opened and forgotten', async () => {
    await opened(server)
    const s = useScripts()
    await settled()
    s.open('fit')
    expect([s.name, s.text]).toEqual(['fit', 'print(1)'])
    s.open('nowhere')
    expect(s.text).toBe('print(1)')
    server.on('put /api/projects/*/scripts/*', {}).on('delete /api/projects/*/scripts/*', {})
    s.name = '  '
    await s.keep()
    expect(server.paths().filter((p) => p.startsWith('put'))).toEqual([])
    s.name = ' two words '
    await s.keep()
    expect(server.paths()).toContain('put /api/projects/p1/scripts/two%20words')
    await s.forget()
    expect([s.name, server.paths().filter((p) => p.startsWith('delete')).length]).toEqual(['', 1])
  })
})
