import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { Constraint, Drawing } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import { opened, told } from '../testing/document'
import { refused, Server, settled } from '../testing/server'
import { PLAIN, units } from '../ui/units'
import { constraint, constraints, empty, entities, type Entity, pointAt } from './model'
import { useSketch } from './store'
import { useTool } from './tool'

const point = (id: string, x: number, y: number): Entity => ({ id, type: 'point', x, y, construction: false, source: null })
const line = (id: string, a: string, b: string): Entity => ({ id, type: 'line', a, b, construction: false, source: null })
const corner: Drawing = {
  ...empty(),
  entities: [point('p1', 0, 0), point('p2', 10, 0), point('p3', 10, 8), line('l1', 'p1', 'p2'), line('l2', 'p2', 'p3')],
  constraints: [constraint('k1', 'horizontal', ['l1']), constraint('d1', 'distance', ['l1'], { formula: '10 mm' })],
}
const held = (drawing: Drawing, more: Record<string, unknown> = {}): Record<string, unknown> => ({
  drawing,
  holds: true,
  culprits: [],
  loop: [],
  troubles: [],
  curves: [],
  values: {},
  freedom: 0,
  loose: {},
  ...more,
})
type Ask = { body: { drawing: Drawing; pull: Record<string, [number, number]>; full: boolean } }
let server: Server

async function drawing(of = corner): Promise<ReturnType<typeof useSketch>> {
  await opened(server, { steps: [{ id: 's1', name: 'Outline', kind: 'sketch', fields: { drawing: of, plane: { base: 'XY' } } }] })
  const sketch = useSketch()
  await sketch.start('s1')
  await settled()
  server.asked.length = 0
  return sketch
}
const types = (d: Drawing): string[] => constraints(d).map((c) => c.type)

beforeEach(() => {
  server = new Server()
    .on('get /api/documents/*/build', { bodies: [], steps: [] })
    .on('post /api/sketch/solve', ({ body }: Ask) => held(body.drawing))
    .on('post /api/sketch/regions', { regions: [], gaps: [] })
})
afterEach(() => {
  useSketch().stop()
  useDocument().close()
  units.value = PLAIN
})

describe('what is drawn', () => {
  it('is kept as one edit of its step, then left', async () => {
    const sketch = await drawing()
    server.on('post /api/documents/*/commands', told(2))
    expect(await sketch.keep()).toBe(true)
    const body = server.last('/commands').body as { commands: { fields: Record<string, unknown> }[]; label: string }
    expect([body.label, body.commands[0].fields.drawing]).toEqual(['draw Outline', corner])
    expect([sketch.open, localStorage.length]).toEqual([false, 0])
  })
  it('stays open, with everything in it, when it cannot be kept', async () => {
    const sketch = await drawing()
    server.on('post /api/documents/*/commands', refused(0, 'the server does not answer'))
    expect(await sketch.keep()).toBe(false)
    expect([sketch.open, entities(sketch.drawing).length]).toEqual([true, 5])
  })
  it('outlives the page: an unfinished one is there again, what was kept one step back', async () => {
    const sketch = await drawing()
    sketch.selected = ['l2']
    await sketch.erase()
    expect(entities(sketch.drawing).map((e) => e.id)).toEqual(['p1', 'p2', 'l1'])
    await sketch.start('s1')
    expect(entities(sketch.drawing).map((e) => e.id)).toEqual(['p1', 'p2', 'l1'])
    await sketch.undo()
    expect(entities(sketch.drawing).length).toBe(5)
  })
  it('left with nothing kept takes its step away only if it was made for it', async () => {
    const sketch = await drawing()
    await sketch.discard()
    expect(server.paths().filter((p) => p.includes('commands'))).toEqual([])
    await sketch.start('s1', true)
    expect(sketch.tool).toBe('line')
    server.on('post /api/documents/*/commands', told(2))
    await sketch.discard()
    expect(server.last('/commands').body).toMatchObject({ commands: [{ do: 'remove_step', id: 's1' }] })
  })
})

describe('a change', () => {
  it('that holds is taken as solved, and can be undone and redone', async () => {
    const sketch = await drawing()
    const solved = { ...corner, entities: [point('p1', 1, 1), ...entities(corner).slice(1)] }
    server.on('post /api/sketch/solve', held(solved))
    expect(await sketch.apply({ ...corner })).toBe(true)
    expect(pointAt(sketch.drawing, 'p1')).toEqual([1, 1])
    server.on('post /api/sketch/solve', ({ body }: Ask) => held(body.drawing))
    await sketch.undo()
    expect([pointAt(sketch.drawing, 'p1'), sketch.past.length, sketch.future.length]).toEqual([[0, 0], 0, 1])
    await sketch.redo()
    await sketch.redo()
    expect([pointAt(sketch.drawing, 'p1'), sketch.past.length, sketch.future.length]).toEqual([[1, 1], 1, 0])
  })
  it('that says nothing new is not taken; dropping another makes room for it', async () => {
    const sketch = await drawing()
    const clash = { culprits: ['k2'], loop: ['k1', 'k2'] }
    server.on('post /api/sketch/solve', ({ body }: Ask) =>
      held(body.drawing, types(body.drawing).filter((t) => t === 'horizontal').length > 1 ? clash : {}),
    )
    sketch.selected = ['l1']
    await sketch.constrain('horizontal')
    expect(types(sketch.drawing)).toEqual(['horizontal', 'distance'])
    expect(sketch.refusal!.report.text).toBe('horizontal k2 says nothing new: horizontal k1 already hold it')
    expect([sketch.refusal!.culprits, sketch.selected]).toEqual([['k2', 'k1'], ['l1']])
    await sketch.dropOne('k1')
    expect(constraints(sketch.drawing).map((c) => c.id)).toEqual(['d1', 'k2'])
    expect(sketch.refusal).toBeNull()
  })
  it('refused as a size can stay as one that only reads out', async () => {
    const sketch = await drawing()
    server.on('post /api/sketch/solve', ({ body }: Ask) => {
      const two = constraints(body.drawing).find((c) => c.id === 'd2')
      return held(body.drawing, two && !two.reference ? { culprits: ['d2'] } : {})
    })
    await sketch.dimension(['l1'], [0, 5])
    expect([types(sketch.drawing).length, sketch.typing]).toEqual([2, null])
    await sketch.asReference()
    expect(constraints(sketch.drawing).map((c) => [c.id, c.reference])).toEqual([
      ['k1', false],
      ['d1', false],
      ['d2', true],
    ])
  })
  it('the solver cannot make is told in its words, and its offer can be taken', async () => {
    const sketch = await drawing()
    const trouble = { code: 'reach', text: '99 mm is too long', where: ['constraint:d1'], offers: [] }
    server.on('post /api/sketch/solve', ({ body }: Ask) =>
      held(body.drawing, constraints(body.drawing)[1].formula === '99 mm' ? { holds: false, troubles: [trouble] } : {}),
    )
    expect(await sketch.setFormula('d1', '99')).toBe(false)
    expect(sketch.refusal!.report.text).toBe('99 mm is too long')
    await sketch.takeOffer({ fields: { formula: '50 mm' } })
    expect(constraints(sketch.drawing)[1].formula).toBe('50 mm')
    server.on('post /api/sketch/solve', refused(500, 'the solver went down'))
    expect(await sketch.apply({ ...corner })).toBe(false)
    expect([sketch.refusal!.report.text, sketch.busy]).toEqual(['the solver went down', false])
  })
  it('of nothing asks nobody', async () => {
    const sketch = await drawing()
    expect(await sketch.apply(sketch.drawing)).toBe(true)
    expect(await sketch.setFormula('d1', ' 10 mm ')).toBe(true)
    expect(await sketch.setFormula('d1', '')).toBe(true)
    expect(await sketch.setFormula('d9', '3')).toBe(false)
    expect(server.asked).toEqual([])
  })
  it('of a size takes the unit of what it measures', async () => {
    const sketch = await drawing()
    units.value = { ...PLAIN, length: 'in' }
    await sketch.setFormula('d1', '3/8')
    expect(constraints(sketch.drawing)[1].formula).toBe('3/8 in')
    await sketch.apply({ ...sketch.drawing, constraints: [constraint('a1', 'angle', ['l1', 'l2']), constraint('r1', 'ratio', ['l1'])] })
    await sketch.setFormula('a1', '30')
    await sketch.setFormula('r1', '2')
    expect(constraints(sketch.drawing).map((c) => c.formula)).toEqual(['30 deg', '2'])
  })
})

describe('dragging', () => {
  it('a line carries both its ends by how far the pointer went; one undo takes it back', async () => {
    const sketch = await drawing()
    const pulls: Record<string, unknown>[] = []
    server.on('post /api/sketch/solve', ({ body }: Ask) => {
      if (Object.keys(body.pull).length) pulls.push(body.pull)
      const moved = entities(body.drawing).map((e) =>
        e.type === 'point' && body.pull[e.id] ? { ...e, x: body.pull[e.id][0], y: body.pull[e.id][1] } : e,
      )
      return held({ ...body.drawing, entities: moved })
    })
    for (const x of [5, 6, 9]) sketch.drag('l1', [x, 1], [5, 0])
    await sketch.dropped()
    expect(pulls.at(-1)).toEqual({ p1: [4, 1], p2: [14, 1] })
    expect(pulls.length).toBeLessThan(3)
    expect([pointAt(sketch.drawing, 'p1'), sketch.past.length]).toEqual([[4, 1], 1])
    await sketch.undo()
    expect(pointAt(sketch.drawing, 'p1')).toEqual([0, 0])
    // A point goes where the pointer is.
    pulls.length = 0
    sketch.drag('p3', [12, 12], [10, 8])
    await sketch.dropped()
    expect(pulls).toEqual([{ p3: [12, 12] }])
  })
  it('past what holds leaves everything where it last held', async () => {
    const sketch = await drawing()
    server.on('post /api/sketch/solve', ({ body }: Ask) => held(body.drawing, { holds: false }))
    sketch.drag('p3', [99, 99], [10, 8])
    await sketch.dropped()
    expect([pointAt(sketch.drawing, 'p3'), sketch.past.length]).toEqual([[10, 8], 0])
  })
})

describe('selecting', () => {
  it('one, more, none; alike and what hangs together', async () => {
    const sketch = await drawing()
    sketch.select('l1', false)
    sketch.select('l2', true)
    expect(sketch.selected).toEqual(['l1', 'l2'])
    sketch.select('l1', true)
    sketch.select(null, true)
    expect(sketch.selected).toEqual(['l2'])
    sketch.select(null, false)
    expect(sketch.selected).toEqual([])
    sketch.pickChain('l1')
    expect([...sketch.selected].sort()).toEqual(['l1', 'l2'])
    sketch.selected = ['l1']
    await sketch.toggleConstruction()
    sketch.pickAlike()
    expect(sketch.selected).toEqual(['l1'])
  })
  it('goes over to another place under new names', async () => {
    const sketch = await drawing()
    sketch.selected = ['l1', 'l2']
    sketch.copy()
    await sketch.putIn([100, 50])
    const made = entities(sketch.drawing)
      .filter((e) => e.type === 'point')
      .slice(3)
    expect(made.map((e) => pointAt(sketch.drawing, e.id))).toEqual([
      [100, 50],
      [110, 50],
      [110, 58],
    ])
    expect(sketch.selected.length).toBe(2)
    expect(types(sketch.drawing)).toEqual(['horizontal', 'distance', 'horizontal', 'distance'])
  })
})

describe('help', () => {
  it('settles only with what stays ticked', async () => {
    const sketch = await drawing()
    const offered = (id: string): object => ({ constraint: constraint(id, 'vertical', ['l2']), words: id })
    server.on('post /api/sketch/settle', { proposals: [offered('k8'), offered('k9')] })
    await sketch.propose()
    sketch.proposals![0].ticked = false
    await sketch.takeProposals()
    expect(constraints(sketch.drawing).map((c: Constraint) => c.id)).toEqual(['k1', 'd1', 'k9'])
    expect(sketch.proposals).toBeNull()
  })
  it('shows what is free until asked again', async () => {
    const sketch = await drawing()
    server.on('post /api/sketch/motions', { motions: [{ points: {}, radii: {} }] })
    await sketch.wiggle()
    expect(sketch.motions.length).toBe(1)
    await sketch.wiggle()
    expect(sketch.motions.length).toBe(0)
  })
})

const TOOLS = {
  steps: [],
  tools: [
    {
      name: 'line',
      label: 'Line',
      spots: ['from', 'to'],
      sizes: [{ name: 'length', kind: 'length', after: 1, default: '' }],
      more: false,
      chain: true,
      wants: [],
    },
    { name: 'spline', label: 'Spline', spots: ['first', 'next'], sizes: [], more: true, chain: false, wants: [] },
    { name: 'arc', label: 'Arc', spots: ['centre', 'from', 'to'], sizes: [], more: false, chain: false, wants: [] },
    {
      name: 'offset',
      label: 'Offset',
      spots: [],
      sizes: [{ name: 'by', kind: 'length', after: 0, default: '2 mm' }],
      more: false,
      chain: false,
      wants: ['curve'],
    },
  ],
}
type Draw = { spots: { at: [number, number] }[]; texts: Record<string, string>; tool: string }
const near = (a: [number, number], b: [number, number]): boolean => Math.hypot(a[0] - b[0], a[1] - b[1]) < 0.5

describe('a tool in hand', () => {
  async function tool(name: string): Promise<ReturnType<typeof useTool>> {
    server
      .on('get /api/kinds', TOOLS)
      .on('post /api/sketch/draw', { drawing: { ...corner }, curves: [], touched: [], chain: 'p3', trouble: null })
    const sketch = await drawing()
    await useRegistries().load()
    const made = useTool()
    sketch.tool = name
    await settled()
    server.asked.length = 0
    return made
  }
  const draws = (): Draw[] => server.asked.filter((a) => a.path.endsWith('/draw')).map((a) => a.body as Draw)
  async function at(made: ReturnType<typeof useTool>, x: number, y: number, press = true): Promise<void> {
    made.move({ at: [x, y] })
    await settled()
    if (press) await made.click(near)
    await settled()
  }

  it('previews once all places but the last are there, and goes on from its end', async () => {
    const made = await tool('line')
    await at(made, 0, 0, false)
    expect([draws().length, made.prompt]).toEqual([0, 'from'])
    await at(made, 0, 0)
    expect(made.prompt).toBe('to')
    made.texts.length = '12'
    await at(made, 5, 5, false)
    expect(draws().at(-1)).toMatchObject({ texts: { length: '12 mm' }, spots: [{ at: [0, 0] }, { at: [5, 5] }] })
    await at(made, 5, 5)
    // The next line begins where this one ended, snapped to it, its size free again.
    expect(made.spots).toEqual([{ at: [10, 8], snap: { kind: 'point', id: 'p3' } }])
    expect(made.texts.length).toBe('')
    await at(made, 10.1, 8)
    expect(made.spots).toEqual([])
  })
  it('with places without end ends on the same place again, on Enter, or closed on its first', async () => {
    const made = await tool('spline')
    const sent = (): [number, number][] =>
      draws()
        .at(-1)!
        .spots.map((s) => s.at)
    for (const [x, y] of [
      [0, 0],
      [5, 0],
      [5, 5],
    ])
      await at(made, x, y)
    expect(made.spots.length).toBe(3)
    await at(made, 5.1, 5)
    expect([sent(), made.spots.length]).toEqual([
      [
        [0, 0],
        [5, 0],
        [5, 5],
      ],
      0,
    ])
    for (const [x, y] of [
      [0, 0],
      [5, 0],
    ])
      await at(made, x, y)
    await made.enter()
    expect(sent()).toEqual([
      [0, 0],
      [5, 0],
    ])
    for (const [x, y] of [
      [0, 0],
      [5, 0],
      [5, 5],
      [0.1, 0.1],
    ])
      await at(made, x, y)
    expect(sent()).toEqual([
      [0, 0],
      [5, 0],
      [5, 5],
      [0, 0],
    ])
  })
  it('counts how far round the pointer went, past half a turn', async () => {
    const made = await tool('arc')
    await at(made, 0, 0)
    await at(made, 10, 0)
    for (const deg of [60, 120, 180, 240, 300])
      await at(made, 10 * Math.cos((deg * Math.PI) / 180), 10 * Math.sin((deg * Math.PI) / 180), false)
    expect(parseFloat(draws().at(-1)!.texts.turn)).toBeCloseTo((300 * Math.PI) / 180, 4)
    for (const deg of [180, 60, 0, -60]) await at(made, 10 * Math.cos((deg * Math.PI) / 180), 10 * Math.sin((deg * Math.PI) / 180), false)
    expect(parseFloat(draws().at(-1)!.texts.turn)).toBeCloseTo((-60 * Math.PI) / 180, 4)
  })
  it('that works on curves waits until some are selected, shows at once, and is put down after', async () => {
    const made = await tool('offset')
    const sketch = useSketch()
    expect([made.picking, draws().length]).toEqual([true, 0])
    await made.enter()
    expect(made.picking).toBe(true)
    sketch.selected = ['l1']
    await made.enter()
    expect(made.picking).toBe(false)
    made.texts.by = '3'
    await settled()
    expect(draws().at(-1)).toMatchObject({ texts: { by: '3 mm' }, selected: ['l1'], spots: [] })
    await made.enter()
    expect(sketch.tool).toBe('select')
  })
  it('says why it cannot draw, and draws nothing', async () => {
    const made = await tool('line')
    server.on('post /api/sketch/draw', { drawing: corner, curves: [], touched: [], trouble: 'the two places are one' })
    await at(made, 0, 0)
    await at(made, 5, 0)
    expect([made.trouble, made.drawn, useSketch().past.length]).toEqual(['the two places are one', null, 0])
    server.on('post /api/sketch/draw', refused(422, '"abc" is no length'))
    await at(made, 6, 0, false)
    expect(made.trouble).toBe('"abc" is no length')
  })
})
