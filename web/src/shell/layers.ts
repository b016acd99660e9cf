// What is open over a page, one above the other: an editor, a question, a way of looking. The topmost
// that is open says what a click in the picture means, what is marked, what the rail offers and which
// panel stands at the right; what it leaves open is asked of the next below.
import { type Component, computed, type ComputedRef } from 'vue'
import type { Hit } from '../viewport/body'
import type { Mark, Wanted } from '../viewport/engine'
import type { Verb } from './VerbRail.vue'

export interface Layer {
  name: string
  open: () => boolean
  /** What can be picked. */
  wanted?: () => Wanted
  marks?: () => Mark[]
  /** What the count chip says instead of counting picks. */
  counted?: () => string | null
  pick?: (hit: Hit | null, add: boolean) => void | Promise<void>
  box?: (marks: Mark[], add: boolean) => void
  verbs?: () => Verb[]
  /** Key of the tool that is on. */
  active?: () => string | null
  panel?: Component
  /** Takes a key; false leaves it to those below and to the page. */
  key?: (event: KeyboardEvent) => boolean
  /** What Escape does: leave it, or give up what it asks. */
  leave?: () => void
  undo?: () => Promise<void>
  redo?: () => Promise<void>
  fit?: () => void
  /** Whether something would be lost by going away. */
  unkept?: () => boolean
  /** The help page about it. */
  help?: () => string | null
  /** It wants the pointer for itself: nothing else begins while it is open. */
  alone?: () => boolean
}

type Asked = 'wanted' | 'marks' | 'counted' | 'verbs' | 'active' | 'help'

export class Stack {
  readonly open: ComputedRef<Layer[]>
  readonly wanted: ComputedRef<Wanted>
  readonly marks: ComputedRef<Mark[]>
  readonly counted: ComputedRef<string | null>
  readonly verbs: ComputedRef<Verb[]>
  readonly active: ComputedRef<string | null>
  readonly panel: ComputedRef<Component | undefined>

  /** `layers` from the topmost down; the last is always open. */
  constructor(layers: Layer[]) {
    this.open = computed(() => layers.filter((l) => l.open()))
    this.wanted = computed(() => this.first('wanted', 'none'))
    this.marks = computed(() => this.first('marks', []))
    this.counted = computed(() => this.first('counted', null))
    this.verbs = computed(() => this.first('verbs', []))
    this.active = computed(() => this.first('active', null))
    this.panel = computed(() => this.open.value.find((l) => l.panel)?.panel)
  }

  get top(): Layer {
    return this.open.value[0]
  }
  is(name: string): boolean {
    return this.top?.name === name
  }

  pick(hit: Hit | null, add: boolean): void {
    void this.open.value.find((l) => l.pick)?.pick?.(hit, add)
  }
  box(marks: Mark[], add: boolean): void {
    this.open.value.find((l) => l.box)?.box?.(marks, add)
  }
  key(event: KeyboardEvent): boolean {
    return this.open.value.some((l) => l.key?.(event) ?? false)
  }
  leave(): void {
    this.open.value.find((l) => l.leave)?.leave?.()
  }
  /** Takes back the newest of what the topmost keeps by itself; false when none does. */
  undo(): boolean {
    return this.travel('undo')
  }
  redo(): boolean {
    return this.travel('redo')
  }
  fit(): boolean {
    const layer = this.open.value.find((l) => l.fit)
    layer?.fit?.()
    return layer !== undefined
  }
  get unkept(): boolean {
    return this.open.value.some((l) => l.unkept?.() ?? false)
  }
  get help(): string | null {
    return this.first('help', null)
  }
  get alone(): boolean {
    return this.open.value.some((l) => l.alone?.() ?? false)
  }

  private travel(way: 'undo' | 'redo'): boolean {
    const layer = this.open.value.find((l) => l[way])
    void layer?.[way]?.()
    return layer !== undefined
  }
  private first<K extends Asked>(what: K, none: NonNullable<ReturnType<NonNullable<Layer[K]>>> | null): never {
    const ask = this.open.value.find((l) => l[what])?.[what]
    return (ask ? ask() : none) as never
  }
}
