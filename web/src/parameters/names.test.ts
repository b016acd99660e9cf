import { expect, it } from 'vitest'
import { freeName } from './names'

it('makes names that formulas can use of any words, none that is taken', () => {
  expect(freeName('Door hinge up', [])).toBe('door_hinge_up')
  expect(freeName('Door hinge up', ['door_hinge_up', 'door_hinge_up_2'])).toBe('door_hinge_up_3')
  expect(freeName('2. Tür / öffnen', [])).toBe('tur_offnen')
  expect(freeName('…', [])).toBe('value')
})
