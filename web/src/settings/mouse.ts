// Which button turns, shifts and zooms the view: three schemes, or one's own.
export type Does = 'turn' | 'shift' | 'zoom'
export type With = '' | 'shift' | 'ctrl' | 'alt'
export interface Binding {
  does: Does
  /** 0 left, 1 middle, 2 right. */
  button: 0 | 1 | 2
  with: With
}
export type Scheme = 'right' | 'middle' | 'held' | 'own'

export const SCHEMES: Record<Exclude<Scheme, 'own'>, { word: string; line: string; bindings: Binding[] }> = {
  right: {
    word: 'Right turns',
    line: 'Right drag turns, middle or Shift with right shifts, the wheel zooms',
    bindings: [
      { does: 'turn', button: 2, with: '' },
      { does: 'shift', button: 1, with: '' },
      { does: 'shift', button: 2, with: 'shift' },
    ],
  },
  middle: {
    word: 'Middle turns',
    line: 'Middle drag turns, with Shift it shifts, with Ctrl it zooms',
    bindings: [
      { does: 'turn', button: 1, with: '' },
      { does: 'shift', button: 1, with: 'shift' },
      { does: 'zoom', button: 1, with: 'ctrl' },
    ],
  },
  held: {
    word: 'Alt held',
    line: 'With Alt held left turns, middle shifts, right zooms: for pads and pens',
    bindings: [
      { does: 'turn', button: 0, with: 'alt' },
      { does: 'shift', button: 1, with: 'alt' },
      { does: 'zoom', button: 2, with: 'alt' },
    ],
  },
}
export const OWN: Binding[] = [
  { does: 'turn', button: 2, with: '' },
  { does: 'shift', button: 1, with: '' },
  { does: 'zoom', button: 1, with: 'ctrl' },
]

export const bindingsOf = (scheme: Scheme, own: Binding[]): Binding[] => (scheme === 'own' ? own : SCHEMES[scheme].bindings)

interface Pressed {
  button: number
  shiftKey: boolean
  ctrlKey: boolean
  altKey: boolean
}
/** What a press does with the view, null when it picks. */
export function gesture(event: Pressed, bindings: Binding[]): Does | null {
  const held: With = event.shiftKey ? 'shift' : event.ctrlKey ? 'ctrl' : event.altKey ? 'alt' : ''
  return bindings.find((b) => b.button === event.button && b.with === held)?.does ?? null
}

/** Why a set of bindings cannot be used: two alike, or a plain left button, which picks. */
export function wrong(bindings: Binding[]): string | null {
  if (bindings.some((b) => b.button === 0 && (b.with === '' || b.with === 'shift')))
    return 'The left button picks, with Shift it adds: give it Ctrl or Alt to do something else.'
  const seen = bindings.map((b) => `${b.button}${b.with}`)
  return new Set(seen).size < seen.length ? 'Two of them are the same press.' : null
}
