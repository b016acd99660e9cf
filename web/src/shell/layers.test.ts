import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { type Layer, Stack } from './layers'

function stacked() {
  const [editing, measuring] = [ref(false), ref(false)]
  const said: string[] = []
  const layers: Layer[] = [
    {
      name: 'edit',
      open: () => editing.value,
      wanted: () => 'edge',
      pick: () => void said.push('edit'),
      undo: async () => void said.push('undo'),
      leave: () => (editing.value = false),
      unkept: () => true,
      alone: () => true,
    },
    { name: 'measure', open: () => measuring.value, pick: () => void said.push('measure'), leave: () => (measuring.value = false) },
    { name: 'page', open: () => true, wanted: () => 'any', pick: () => void said.push('page'), active: () => 'sketch' },
  ]
  return { editing, measuring, said, stack: new Stack(layers) }
}

describe('layers over a page', () => {
  it('ask the topmost that is open, and those below for what it leaves open', () => {
    const { editing, measuring, said, stack } = stacked()
    stack.pick(null, false)
    expect([stack.wanted.value, stack.top.name]).toEqual(['any', 'page'])
    measuring.value = true
    stack.pick(null, false)
    expect([stack.wanted.value, stack.top.name]).toEqual(['any', 'measure'])
    editing.value = true
    stack.pick(null, false)
    expect([stack.wanted.value, stack.active.value]).toEqual(['edge', 'sketch'])
    expect(said).toEqual(['page', 'measure', 'edit'])
  })
  it('are left one by one, and undo their own first', () => {
    const { editing, measuring, said, stack } = stacked()
    expect(stack.undo()).toBe(false)
    editing.value = measuring.value = true
    expect([stack.undo(), stack.unkept, stack.alone]).toEqual([true, true, true])
    stack.leave()
    expect([editing.value, measuring.value]).toEqual([false, true])
    stack.leave()
    expect(stack.top.name).toBe('page')
    expect(said).toEqual(['undo'])
  })
})
