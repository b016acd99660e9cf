import { describe, expect, it } from 'vitest'
import { bindingsOf, gesture, OWN, SCHEMES, wrong } from './mouse'

const press = (button: number, held = '') => ({
  button,
  shiftKey: held === 'shift',
  ctrlKey: held === 'ctrl',
  altKey: held === 'alt',
})

describe('mouse schemes', () => {
  it('turn, shift and zoom as they say, and leave the left button to picking', () => {
    const right = bindingsOf('right', OWN)
    expect(gesture(press(2), right)).toBe('turn')
    expect(gesture(press(2, 'shift'), right)).toBe('shift')
    expect(gesture(press(1), right)).toBe('shift')
    const middle = bindingsOf('middle', OWN)
    expect(gesture(press(1), middle)).toBe('turn')
    expect(gesture(press(1, 'ctrl'), middle)).toBe('zoom')
    expect(gesture(press(0, 'alt'), bindingsOf('held', OWN))).toBe('turn')
    for (const scheme of ['right', 'middle', 'held', 'own'] as const)
      for (const held of ['', 'shift']) expect(gesture(press(0, held), bindingsOf(scheme, OWN))).toBeNull()
  })
  it('refuse what would take picking away or stand twice', () => {
    for (const s of Object.values(SCHEMES)) expect(wrong(s.bindings)).toBeNull()
    expect(wrong([{ does: 'turn', button: 0, with: '' }])).toContain('picks')
    expect(
      wrong([
        { does: 'turn', button: 2, with: '' },
        { does: 'zoom', button: 2, with: '' },
      ]),
    ).toContain('same')
  })
})
