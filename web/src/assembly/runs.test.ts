// Runs: what is typed, named, plotted, taken out.
import { describe, expect, it } from 'vitest'
import { PLAIN, units } from '../ui/units'
import { marked, span, ticks } from '../ui/ticks'
import { animated, csvOf } from './runFiles'
import { between, inOwn, nearest, pointsOf, type Series, titleOf } from './runs'
import type { AssemblyView } from './store'
import type { BodySpec } from '../viewport/body'

const curve = (more: Partial<Series>): Series => ({ id: 'x', quantity: 'value', unit: 'mm', values: [0, 25.4], ...more })

describe('what is typed and named', () => {
  it('reads times and values line by line and leaves out what is none', () => {
    expect(pointsOf('0 s, 0 deg\n\n 1 s ;45 deg\nnonsense\n2 s\t0 deg')).toEqual([
      ['0 s', '0 deg'],
      ['1 s', '45 deg'],
      ['2 s', '0 deg'],
    ])
  })
  it('names curves by joint, coordinate and what is told', () => {
    expect(titleOf(curve({ name: 'Hinge', label: '' }))).toBe('Hinge')
    expect(titleOf(curve({ name: 'Slide', label: 'Angle', quantity: 'speed' }))).toBe('Slide, Angle · speed')
    expect(titleOf(curve({ label: 'Energy in all', quantity: 'energy' }))).toBe('Energy in all')
  })
  it('finds the nearest of growing values', () => {
    expect([-1, 0.4, 0.6, 9].map((t) => nearest([0, 1, 2, 3], t))).toEqual([0, 0, 1, 3])
    expect(nearest([5], 2)).toBe(0)
  })
  it('goes between frames by values and speeds, exactly for cubics', () => {
    const [f, g] = [(t: number) => 2 - t + 3 * t ** 2 - t ** 3, (t: number) => -1 + 6 * t - 3 * t ** 2]
    const times = [0, 0.5, 1.25, 2]
    for (const t of [0, 0.1, 0.49, 0.5, 0.9, 1.24, 1.9, 2]) expect(between(times, times.map(f), times.map(g), t)).toBeCloseTo(f(t), 12)
  })
})

describe('axes', () => {
  it('marks round numbers within the range, however small', () => {
    for (const [low, high] of [
      [0, 1],
      [-3, 7.2],
      [1e-7, 4e-7],
      [1e6, 1.02e6],
    ]) {
      const found = ticks(low, high, 4)
      expect(found.length).toBeGreaterThan(1)
      expect(found.length).toBeLessThan(12)
      expect(Math.min(...found)).toBeGreaterThanOrEqual(low - 1e-9 * (high - low))
      expect(Math.max(...found)).toBeLessThanOrEqual(high + 1e-9 * (high - low))
    }
  })
  it('tells neighbouring marks apart, small gaps as well', () => {
    for (const top of [1, 0.02, 3e-4, 2e-8, 5e7]) {
      const found = ticks(0, top, 4)
      const words = found.map((v) => marked(v, found[1] - found[0]))
      expect(new Set(words).size).toBe(words.length)
      expect(words[0]).toBe('0')
    }
  })
  it('gives a constant a range around it, nothing one about zero', () => {
    expect(span([5, 5])).toEqual([4.5, 5.5])
    expect(span([0, 0])).toEqual([-1, 1])
    expect(span([])).toEqual([0, 1])
    expect(span([0.2, 8])[0]).toBe(0)
  })
})

describe('taken out', () => {
  it('writes curves in the units of the document, with nothing that a table would run', () => {
    units.value = { ...PLAIN, length: 'in' }
    try {
      expect(inOwn(curve({}))).toEqual({ unit: 'in', values: [0, 1] })
      const text = csvOf([0, 0.5], [curve({ name: '=HYPERLINK("x")' }), curve({ name: 'Plain', unit: 'N·m', values: [1, -2] })])
      const [head, , last] = text.split('\r\n')
      expect(head).toBe(`time [s],"'=HYPERLINK(""x"") [in]",Plain [N·m]`)
      expect(last).toBe('0.5,1,-2')
    } finally {
      units.value = PLAIN
    }
  })
  it('has tracks for what moves and none for what stands', () => {
    const still = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
    const leaf = (id: string, member: string) => ({ id, member, carried: [], matrix: still, names: [id] })
    const built = {
      components: ['c1', 'c2'].map((id) => ({ id, matrix: still })),
      leaves: [leaf('c1/b', 'c1'), leaf('c2/b', 'c2')],
    } as unknown as AssemblyView
    const mesh = { positions: new Float32Array(9), normals: new Int8Array(12).fill(127), triangles: new Uint32Array([0, 1, 2]) }
    const bodies = ['c1/b', 'c2/b'].map((id) => ({ id, mesh, colour: '#888888' })) as unknown as BodySpec[]
    const q: [number, number, number, number] = [1, 0, 0, 0]
    const frames = [0, 1, 2].map((k) => ({
      c1: { p: [0, 0, 0] as [number, number, number], q },
      c2: { p: [10 * k, 0, 0] as [number, number, number], q: [Math.cos(k), 0, 0, Math.sin(k)] as typeof q },
    }))
    const { scene, clip } = animated(bodies, built, { times: [0, 1, 2], frames }, 'Swing')
    expect(clip.tracks.map((t) => t.name)).toEqual(['body_1.position', 'body_1.quaternion'])
    expect([...clip.tracks[0].values]).toEqual([0, 0, 0, 10, 0, 0, 20, 0, 0])
    expect(clip.duration).toBe(2)
    // Metres, Y up.
    scene.updateMatrixWorld()
    const up = scene.children[0].localToWorld(scene.position.clone().set(0, 0, 1000))
    expect(up.toArray().map((v) => Math.round(v * 1e6) / 1e6)).toEqual([0, 1, 0])
  })
})
