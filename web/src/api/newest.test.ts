import { describe, expect, it } from 'vitest'
import { Fetched, Pump, turns } from './newest'

describe('turns', () => {
  it('know whether somebody asked after them', () => {
    const turn = turns()
    const first = turn()
    expect(first()).toBe(true)
    const second = turn()
    expect([first(), second()]).toEqual([false, true])
    turn.end()
    expect(second()).toBe(false)
  })
})

describe('a pump', () => {
  it('sends one at a time and passes over what was wished for meanwhile', async () => {
    const sent: number[] = []
    let under = 0
    const pump = new Pump<number>(async (n) => {
      expect(++under).toBe(1)
      await Promise.resolve()
      sent.push(n)
      under--
    })
    for (const n of [1, 2, 3, 4]) pump.wish(n)
    await pump.settled()
    expect(sent).toEqual([1, 4])
    pump.wish(5)
    await pump.settled()
    expect(sent).toEqual([1, 4, 5])
  })
})

describe('what is fetched', () => {
  it('is fetched once, and again after it failed', async () => {
    let asked = 0
    const all = new Fetched<number>(async (key) => {
      asked++
      if (key === 'bad' && asked === 1) throw new Error('no')
      return key.length
    }, 2)
    await expect(all.get('bad')).rejects.toThrow('no')
    expect(await all.get('bad')).toBe(3)
    expect(await all.get('bad')).toBe(3)
    expect(asked).toBe(2)
    await all.get('a')
    await all.get('b')
    await all.get('bad')
    expect(asked).toBe(5)
  })
})
