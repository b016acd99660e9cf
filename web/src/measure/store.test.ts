import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { useDocument } from '../document/store'
import { opened, told } from '../testing/document'
import { refused, Server, settled } from '../testing/server'
import { PLAIN, units } from '../ui/units'
import { shown, type Size, useMeasuring } from './store'

const size = (key: string, value: number, dimension = 'length', line: number[][] = []): Size =>
  ({ key, label: key, value, dimension, line }) as unknown as Size
const pick = (name: string): Record<string, unknown> => ({ body: 'b1', kind: 'face', name: [name] })
let server: Server

beforeEach(() => {
  server = new Server()
    .on('get /api/documents/*/build', { bodies: [], steps: [] })
    .on('post /api/documents/*/measure', ({ body }: { body: { picks: object[] } }) => ({
      readings: [
        size('least', body.picks.length, 'length', [
          [0, 0, 0],
          [1, 0, 0],
        ]),
        size('area', 645.16, 'area'),
      ],
    }))
})
afterEach(() => {
  useMeasuring().stop()
  useDocument().close()
  units.value = PLAIN
})

describe('a reading', () => {
  it('is told in the units of the document, with the digits asked for', () => {
    expect([shown(size('a', 12.3456)), shown(size('a', 12.3456), 1), shown(size('a', Math.PI / 6, 'angle'))]).toEqual([
      '12.346 mm',
      '12.3 mm',
      '30°',
    ])
    units.value = { ...PLAIN, length: 'in' }
    expect([shown(size('a', 25.4)), shown(size('a', 645.16, 'area')), shown(size('a', 3, 'number'))]).toEqual(['1 in', '1 in²', '3'])
    units.value = { ...PLAIN, length: 'in', fractions: 16 }
    expect(shown(size('a', 38.1))).toBe('1 1/2 in')
  })
})

describe('measuring', () => {
  it('takes two things; a third begins anew unless it is to join them; the same again lets it go', async () => {
    await opened(server)
    const m = useMeasuring()
    const names = (): string[] => m.picks.map((p) => (p.name as string[])[0])
    for (const n of ['a', 'b', 'c']) m.take(pick(n), false)
    expect(names()).toEqual(['c'])
    m.take(pick('d'), false)
    m.take(pick('e'), true)
    expect(names()).toEqual(['c', 'd', 'e'])
    m.take(pick('d'), false)
    expect(names()).toEqual(['c', 'e'])
    await settled()
    expect(m.sizes[0].value).toBe(2)
    expect(m.text).toBe('least\t2 mm\narea\t645.16 mm²')
  })

  it('shows what is picked now, whatever order the answers come in, and why there is none', async () => {
    await opened(server)
    const m = useMeasuring()
    server.hold()
    m.take(pick('a'), false)
    await settled()
    m.take(pick('b'), false)
    await settled()
    await server.release(1, 0)
    expect(m.sizes[0].value).toBe(2)
    server.on('post /api/documents/*/measure', refused(422, 'that face is gone'))
    m.take(pick('c'), true)
    await settled()
    await server.release(2)
    expect([m.trouble, m.sizes]).toEqual(['that face is gone', []])
  })

  it('draws the line of the shortest way, or of what the pointer rests on', async () => {
    await opened(server)
    const m = useMeasuring()
    m.take(pick('a'), false)
    await settled()
    expect(m.lines.length).toBe(1)
    m.over = 'area'
    expect(m.lines).toEqual([])
  })

  it('ends with putting it down and with the document', async () => {
    const doc = await opened(server)
    const m = useMeasuring()
    m.toggle()
    m.take(pick('a'), false)
    m.toggle()
    expect([m.on, m.picks]).toEqual([false, []])
    m.toggle()
    doc.view = told(1, {}, { id: 'd2' }) as never
    await settled()
    expect(m.on).toBe(false)
  })

  it('keeps notes, tells them anew after every change, and says where one cannot be told', async () => {
    const doc = await opened(server, {
      notes: [
        { id: 'n1', picks: [pick('a')], key: 'area', words: 'Window' },
        { id: 'n2', picks: [pick('b')], key: 'depth', words: 'Gone' },
      ],
    })
    const m = useMeasuring()
    await settled(30)
    expect(m.notes.map((n) => [n.label, n.size?.value ?? null])).toEqual([
      ['Window', 645.16],
      ['Gone', null],
    ])
    server.on('post /api/documents/*/measure', { readings: [size('area', 700, 'area')] })
    await doc.rebuild()
    await settled(30)
    expect(m.notes[0].size?.value).toBe(700)
    server.on('post /api/documents/*/commands', told(2))
    m.take(pick('z'), false)
    await settled()
    m.pin(size('area', 1, 'area'))
    await settled()
    expect(server.last('/commands').body).toMatchObject({ commands: [{ do: 'add_note', picks: [pick('z')], key: 'area', words: 'area' }] })
    m.unpin('n1')
    await settled()
    expect(server.last('/commands').body).toMatchObject({ commands: [{ do: 'remove_note', id: 'n1' }] })
  })
})
