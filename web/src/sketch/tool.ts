// A tool of the registry at work: places clicked so far, sizes typed, what it would draw.
import { defineStore } from 'pinia'
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { call, Refusal, type Drawing, type Schemas } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import { pointAt, type Pair, type Spot } from './model'
import { useSketch } from './store'
import { typed } from '../ui/units'

export type ToolView = Schemas['ToolView']
type Drawn = Schemas['DrawView']

/** How a key is written: capitals are typed with Shift. */
export const keyName = (key: string): string => (key === key.toLowerCase() ? key.toUpperCase() : `Shift ${key}`)

export const useTool = defineStore('sketch-tool', () => {
  const sketch = useSketch()
  const doc = useDocument()
  const registries = useRegistries()
  const spots = shallowRef<Spot[]>([])
  const target = shallowRef<Spot>({ at: [0, 0] })
  const texts = ref<Record<string, string>>({})
  const drawn = shallowRef<Drawn | null>(null)
  const trouble = ref('')
  /** How far the pointer went round the first place, so that large arcs can be drawn. */
  let turn = 0

  const tool = computed<ToolView | null>(() => registries.found?.tools.find((t) => t.name === sketch.tool) ?? null)
  /** Something has to be selected before places count. */
  const picking = ref(false)
  const prompt = computed(() => {
    const t = tool.value
    if (!t) return ''
    if (picking.value) return 'select what it works on, then Enter'
    return t.spots[Math.min(spots.value.length, t.spots.length - 1)] ?? ''
  })
  /** Sizes that can be typed now, those of the pointer only when they wait for a place. */
  const sizes = computed(() => (tool.value?.sizes ?? []).filter((s) => s.after <= spots.value.length))
  const atPointer = computed(() => (spots.value.length ? sizes.value.filter((s) => s.after > 0 && s.kind !== 'flag') : []))
  const standing = computed(() => (tool.value?.sizes ?? []).filter((s) => s.after === 0 || s.kind === 'flag'))
  const lacking = computed(() => (tool.value ? tool.value.spots.length - spots.value.length : 0))

  function reset(): void {
    spots.value = []
    drawn.value = null
    trouble.value = ''
    turn = 0
    for (const s of tool.value?.sizes ?? []) if (s.after > 0 && s.kind !== 'flag') texts.value[s.name] = ''
  }
  watch(
    () => [sketch.tool, sketch.step],
    () => {
      texts.value = Object.fromEntries((tool.value?.sizes ?? []).map((s) => [s.name, s.default]))
      picking.value = Boolean(tool.value?.wants.length && !sketch.selected.length)
      reset()
      if (tool.value && !tool.value.spots.length) void preview()
    },
    { immediate: true },
  )

  /** Take a tool in hand with sizes typed already. */
  async function begin(name: string, given: Record<string, string>): Promise<void> {
    sketch.tool = 'select'
    await nextTick()
    sketch.tool = name
    await nextTick()
    Object.assign(texts.value, given)
    void preview()
  }

  function given(): Record<string, string> {
    const found: Record<string, string> = {}
    for (const s of tool.value?.sizes ?? []) {
      const text = (texts.value[s.name] ?? '').trim()
      if (text) found[s.name] = typed(text, s.kind)
    }
    if (turn) found.turn = `${turn.toFixed(6)} rad`
    return found
  }
  const ask = (places: Spot[]): Promise<Drawn> =>
    call('post', '/api/sketch/draw', {
      body: {
        document: doc.view!.id,
        drawing: sketch.drawing,
        tool: sketch.tool,
        texts: given(),
        selected: sketch.selected,
        construction: sketch.construction,
        spots: places.map((s) => ({ at: s.at, snap: s.snap ?? null, level: s.level ?? null })),
      },
    })

  // Previews: only the newest place counts, one request at a time.
  let wanted = false
  let asking = false
  async function preview(): Promise<void> {
    const t = tool.value
    if (!t || picking.value) return
    if (lacking.value > 1 && !(t.more && spots.value.length)) {
      drawn.value = null
      return
    }
    wanted = true
    if (asking) return
    asking = true
    while (wanted) {
      wanted = false
      const name = sketch.tool
      try {
        const found = await ask(t.spots.length ? [...spots.value, target.value] : [])
        if (name !== sketch.tool) break
        drawn.value = found.trouble ? null : found
        trouble.value = found.trouble ?? ''
      } catch (error) {
        if (name !== sketch.tool) break
        drawn.value = null
        trouble.value = error instanceof Refusal ? error.report.text : String(error)
      }
    }
    asking = false
  }
  watch(texts, () => void preview(), { deep: true })
  watch(
    () => sketch.selected,
    () => {
      if (tool.value && !tool.value.spots.length) void preview()
    },
  )

  /** The pointer moved to a place. */
  function move(spot: Spot): void {
    target.value = spot
    if (spots.value.length >= 2) {
      const [c, s] = [spots.value[0].at, spots.value[1].at]
      const to = Math.atan2(spot.at[1] - c[1], spot.at[0] - c[0]) - Math.atan2(s[1] - c[1], s[0] - c[0])
      let step = to - turn
      step -= Math.round(step / (2 * Math.PI)) * 2 * Math.PI
      turn = Math.max(-6.25, Math.min(6.25, turn + step))
    }
    void preview()
  }

  /** A place was clicked. `near` tells whether two places are one for the hand. */
  async function click(near: (a: Pair, b: Pair) => boolean): Promise<void> {
    const t = tool.value
    if (!t || picking.value) return
    const last = spots.value.at(-1)
    if (last && near(last.at, target.value.at)) {
      // Clicking the same place again ends a chain.
      if (t.more && spots.value.length > 1) await finish(spots.value)
      else if (t.chain) reset()
      return
    }
    const places = [...spots.value, target.value]
    const closes = t.more && places.length > 3 && near(places[0].at, target.value.at)
    if (closes) await finish([...spots.value, spots.value[0]])
    else if (t.more || places.length < t.spots.length) {
      spots.value = places
      turn = 0
      drawn.value = null
    } else await finish(places)
  }

  /** Enter: typed sizes count with the place under the pointer; open chains end. */
  async function enter(): Promise<void> {
    const t = tool.value
    if (!t) return
    if (picking.value) {
      if (sketch.selected.length) picking.value = false
      return
    }
    if (t.more && spots.value.length > 1) await finish(spots.value)
    else if (!t.spots.length) await finish([])
    else if (spots.value.length) await click(() => false)
  }

  async function finish(places: Spot[]): Promise<void> {
    const t = tool.value!
    let made: Drawn
    try {
      made = await ask(places)
      if (made.trouble) {
        trouble.value = made.trouble
        return
      }
    } catch (error) {
      trouble.value = error instanceof Refusal ? error.report.text : String(error)
      return
    }
    const kept = await sketch.apply(made.drawing as Drawing)
    reset()
    if (!kept) return
    if (t.chain && made.chain) spots.value = [{ at: pointAt(sketch.drawing, made.chain), snap: { kind: 'point', id: made.chain } }]
    if (t.wants.length) sketch.tool = 'select'
  }

  return {
    tool,
    spots,
    target,
    texts,
    drawn,
    trouble,
    picking,
    prompt,
    sizes,
    atPointer,
    standing,
    move,
    click,
    enter,
    reset,
    preview,
    begin,
  }
})
