// The first tour: a card at a time, pointing at what it speaks of. Nothing is blocked meanwhile.
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

export interface Stop {
  /** What is pointed at: the first of these that is there. */
  at: string
  title: string
  text: string
}

export const STOPS: Stop[] = [
  {
    at: '[data-testid=build-list]',
    title: 'The build list',
    text: 'Every step has a card, in build order, with the mass so far and what the step changed. Click a number on a card to change it in place; drag a card to put the step elsewhere.',
  },
  {
    at: '[data-testid=stage]',
    title: 'The model',
    text: 'Right-drag turns, middle-drag shifts, the wheel zooms at the pointer, 1 to 7 are the sides. Click faces and edges to pick them; the tool you choose next takes them.',
  },
  {
    at: '.rail',
    title: 'The verbs',
    text: 'What you can do, by what it is for: sketch, grow, cut, round, copy. Every tool shows what it will do before it is kept.',
  },
  {
    at: '[data-testid=quick]',
    title: 'Quick entry',
    text: 'Press / and type: “fillet 3”, “hole M6”, or any name in the project.',
  },
  {
    at: '[data-testid=tab-parameters]',
    title: 'Parameters',
    text: 'Change shaft_d to 32 mm and watch block, bore and screws follow. While you type, what would break is told before it is kept. 27 mm is not among the limits: try it, then undo.',
  },
  {
    at: '[data-testid=style]',
    title: 'Styles and sections',
    text: 'Wall thickness, draft, undercut and stripes colour the model; X cuts it open; View keeps named views and saves pictures.',
  },
  {
    at: '[data-testid=checks-badge]',
    title: 'Checks',
    text: 'A check measures something after every change and is held to a limit. Press M, pick two faces, and make the reading a check.',
  },
  {
    at: '[data-testid=tab-script]',
    title: 'Scripts',
    text: 'The same steps in Python. Record what you do by hand, or show this part as the script that makes it.',
  },
  {
    at: '[data-testid=help-button]',
    title: 'Help',
    text: 'A page for every step, searchable; every message leads to its page. Undo goes back as far as you like: nothing here can be broken for good.',
  },
]

export const useTour = defineStore('tour', () => {
  const at = ref<number | null>(null)
  const stop = computed(() => (at.value === null ? null : STOPS[at.value]))
  function begin(): void {
    at.value = 0
  }
  function next(by = 1): void {
    if (at.value === null) return
    const to = at.value + by
    if (to >= STOPS.length) end()
    else at.value = Math.max(0, to)
  }
  function end(): void {
    at.value = null
    localStorage.setItem('toured', 'yes')
  }
  return { at, stop, begin, next, end }
})
