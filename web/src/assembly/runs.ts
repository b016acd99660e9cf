// Motions over time of the open assembly: edited, gone through, played, plotted.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Schemas } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import { type Job, useJobs } from '../jobs/store'
import { trim } from '../ui/format'
import { lengthUnit, number } from '../ui/units'
import type { Engine } from '../viewport/engine'
import { originalOf } from './copyNames'
import { type End, type Placement, useAssembly } from './store'

export type Run = Schemas['Run']
type Frames = Record<string, Placement>
export interface Series {
  id: string
  quantity: string
  unit: string
  values: number[]
  name?: string
  label?: string
  joint?: string
}
export interface RunClash {
  a: string
  b: string
  name_a: string
  name_b: string
  faces_a: string[]
  faces_b: string[]
  value: number
  end: number | null
  depth: number
  frame: Frames
}
export interface Watched {
  a: string
  b: string
  name_a: string
  name_b: string
  gaps: number[]
  /** By how much the curve may be off (mm); the least is exact. */
  within: number
  least: number
  value: number
  near: [number[], number[]] | null
  frame: Frames
}
export interface RunResult {
  times: number[]
  frames: Frames[]
  series: Series[]
  traces: { name: string; points: number[][] }[]
  driven: [string, string][]
  freedom: number
  weighed: boolean
  looked: boolean
  clashes: RunClash[]
  watched: Watched[]
  events: { time: number; what: string; name: string; value: number; unit: string }[]
  limit: { name: string; value: number; unit: string; at: number } | null
  stuck: number | null
  turning: number[]
  shared: string[]
  held: string[]
  left: string[]
  balance: { work: number; gained: number } | null
}
export interface DriverDraft {
  joint: string
  coordinate: string
  law: string
  value: string
  over: string
  points: string
}
export interface LoadDraft {
  kind: string
  joint: string
  coordinate: string
  a: End | null
  b: End | null
  along: string
  value: string
  rest: string
  damping: string
}
export interface Draft {
  /** Of the run edited; null for a new one. */
  id: string | null
  name: string
  duration: string
  frames: number
  drivers: DriverDraft[]
  loads: LoadDraft[]
  weighed: boolean
  gravity: string
  clashes: boolean
  watched: { a: string; b: string }[]
  traced: { name: string; at: End }[]
}
/** What the next click in the picture is for. */
export type Asking = { load: number; side: 'a' | 'b' } | 'trace' | 'watch'

/** Times and values as they are typed, one pair to a line. */
export const pointsOf = (text: string): [string, string][] =>
  text
    .split('\n')
    .map((line) => line.split(/[,;\t]/).map((x) => x.trim()))
    .filter((x) => x.length >= 2 && x[0] && x[1])
    .map((x) => [x[0], x[1]])

const WORDS: Record<string, string> = {
  value: '', speed: 'speed', acceleration: 'acceleration', effort: 'effort', force: 'force', moment: 'moment',
  energy: '', power: '', place: '', gap: 'gap',
} // prettier-ignore
/** What a curve is called. */
export function titleOf(s: Series): string {
  const words = WORDS[s.quantity] ?? s.quantity
  const own = [s.name, s.label].filter(Boolean).join(', ')
  return [own, words].filter(Boolean).join(' · ')
}
/** A curve in the document's units. */
export function inOwn(s: Series): { unit: string; values: number[] } {
  if (!s.unit.startsWith('mm')) return { unit: s.unit.replace('deg', '°'), values: s.values }
  return { unit: s.unit.replace('mm', lengthUnit()), values: s.values.map(number) }
}

export const useRuns = defineStore('runs', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const jobs = useJobs()
  const registries = useRegistries()
  const runs = computed<Run[]>(() => doc.assembly?.runs ?? [])
  /** The run that is looked at. */
  const chosen = ref<string | null>(null)
  const run = computed(() => runs.value.find((r) => r.id === chosen.value) ?? runs.value[0] ?? null)
  const job = computed<Job | null>(() => {
    const id = run.value?.id
    const own = Object.values(jobs.jobs).filter((j) => j.kind === 'run' && (j.request as { run?: string } | null)?.run === id)
    return own.sort((a, b) => b.created - a.created)[0] ?? null
  })
  const result = computed<RunResult | null>(() => (job.value?.state === 'done' ? (job.value.result as unknown as RunResult) : null))
  const series = computed<Series[]>(() => {
    const r = result.value
    if (!r) return []
    const gaps = r.watched.map((w, k) => ({
      id: `gap:${k}`, quantity: 'gap', unit: 'mm', values: w.gaps, name: `${w.name_a} – ${w.name_b}`,
    })) // prettier-ignore
    return [...gaps, ...r.series]
  })

  // What is plotted.
  const chosenCurves = ref<Record<string, string[]>>({})
  const wanted = computed(() => {
    const [id, r] = [run.value?.id, result.value]
    if (!id || !r) return []
    const known = new Set(series.value.map((s) => s.id))
    const own = (chosenCurves.value[id] ?? first(r)).filter((s) => known.has(s))
    return own.length || chosenCurves.value[id]?.length === 0 ? own : first(r)
  })
  const plotted = computed(() => series.value.filter((s) => wanted.value.includes(s.id)))
  /** First what one drives or watches. */
  function first(r: RunResult): string[] {
    const gaps = r.watched.map((_, k) => `gap:${k}`)
    const efforts = r.series.filter((s) => s.quantity === 'effort').map((s) => s.id)
    const values = r.series.filter((s) => s.quantity === 'value').map((s) => s.id)
    return [...gaps.slice(0, 2), ...(gaps.length ? [] : efforts.slice(0, 1)), ...values.slice(0, 1)]
  }
  watch(
    result,
    (r) => {
      if (!r) return
      at.value = Math.min(at.value, r.times.length - 1)
    },
    { immediate: true },
  )
  function plot(id: string): void {
    const own = run.value?.id
    if (own)
      chosenCurves.value = {
        ...chosenCurves.value,
        [own]: wanted.value.includes(id) ? wanted.value.filter((x) => x !== id) : [...wanted.value, id],
      }
  }

  // Playing: a picture of what would be, until it is kept or left.
  const at = ref(0)
  const playing = ref(false)
  const pace = ref(1)
  const loop = ref(true)
  const shows = ref(false)
  /** Sliders go along to a time, and so does what is held when it is kept. */
  function follow(time: number): void {
    const r = result.value
    if (!r) return
    const now = { ...asm.values }
    for (const s of r.series) {
      const [what, joint, coordinate] = s.id.split(':')
      const speed = r.series.find((x) => x.id === `speed:${joint}:${coordinate}`)
      if (what === 'value' && speed) now[joint] = { ...now[joint], [coordinate]: between(r.times, s.values, speed.values, time) }
    }
    asm.values = now
  }
  function show(k: number): void {
    const r = result.value
    if (!r) return
    at.value = Math.min(Math.max(Math.round(k), 0), r.frames.length - 1)
    shows.value = true
    near.value = null
    asm.show(r.frames[at.value])
    follow(r.times[at.value])
  }
  const showAt = (time: number): void => show(nearest(result.value?.times ?? [], time))
  let begun = 0
  let from = 0
  function step(now: number): void {
    const r = result.value
    if (!playing.value || !r) return
    const whole = r.times[r.times.length - 1] - r.times[0]
    let time = from + ((now - begun) / 1000) * pace.value
    if (time > whole && loop.value && whole > 0) time %= whole
    if (time >= whole) playing.value = false
    show(nearest(r.times, Math.min(time, whole)))
    if (playing.value) requestAnimationFrame(step)
  }
  function play(): void {
    const r = result.value
    if (!r) return
    playing.value = !playing.value
    if (!playing.value) return
    const ended = at.value >= r.times.length - 1
    from = ended ? 0 : r.times[at.value]
    begun = performance.now()
    requestAnimationFrame(step)
  }
  watch(pace, () => {
    from = result.value?.times[at.value] ?? 0
    begun = performance.now()
  })
  /** The nearest places of a gap that is looked at. */
  const near = shallowRef<[number[], number[]] | null>(null)
  function look(frame: Frames, value: number, places: [number[], number[]] | null = null): void {
    playing.value = false
    shows.value = true
    at.value = nearest(result.value?.times ?? [0], value)
    near.value = places
    asm.show(frame)
    follow(value)
  }
  function back(): void {
    playing.value = false
    if (shows.value) asm.restore()
    shows.value = false
    near.value = null
  }
  watch(
    () => doc.view?.revision,
    () => {
      playing.value = shows.value = false
      near.value = null
    },
  )
  /** Keep everything where it is shown. */
  async function stay(): Promise<void> {
    playing.value = false
    await asm.keepPlaces()
    shows.value = false
  }

  // Editing
  const draft = ref<Draft | null>(null)
  const asking = ref<Asking | null>(null)
  const half = ref<string | null>(null)
  function blank(): Draft {
    const names = new Set(runs.value.map((r) => r.name))
    let n = 1
    while (names.has(`Run ${n}`)) n++
    return {
      id: null, name: `Run ${n}`, duration: '2 s', frames: 120, drivers: [], loads: [], weighed: true, gravity: '-Z',
      clashes: true, watched: [], traced: [],
    } // prettier-ignore
  }
  function begin(): void {
    back()
    draft.value = blank()
    drive()
  }
  function edit(r: Run): void {
    back()
    chosen.value = r.id
    draft.value = {
      id: r.id,
      name: r.name,
      duration: r.duration ?? '2 s',
      frames: r.frames ?? 120,
      drivers: (r.drivers ?? []).map((d) => ({
        joint: d.joint,
        coordinate: d.coordinate ?? '',
        law: d.law ?? 'speed',
        value: d.value ?? '',
        over: d.over ?? '',
        points: (d.points ?? []).map((p) => p.join(', ')).join('\n'),
      })),
      loads: (r.loads ?? []).map((l) => ({
        kind: l.kind, joint: l.joint ?? '', coordinate: l.coordinate ?? '', a: (l.a as End | null) ?? null, b: (l.b as End | null) ?? null,
        along: l.along ?? '-Z', value: l.value ?? '', rest: l.rest ?? '', damping: l.damping ?? '',
      })),
      weighed: r.weighed ?? true,
      gravity: r.gravity ?? '-Z',
      clashes: r.clashes ?? true,
      watched: (r.watched ?? []).map((w) => ({ ...w })),
      traced: (r.traced ?? []).map((t) => ({ name: t.name, at: t.at as End })),
    } // prettier-ignore
  }
  /** What can be driven: every coordinate of every joint that is awake. */
  const drivable = computed(() =>
    (asm.built?.joints ?? [])
      .filter((j) => !doc.assembly?.joints?.find((x) => x.id === j.id)?.asleep)
      .filter((j) => registries.found?.joints.find((k) => k.kind === j.kind)?.family !== 'Condition')
      .flatMap((j) =>
        j.coordinates.map((c) => ({
          key: `${j.id} ${c.name}`,
          joint: j.id,
          coordinate: c,
          name: j.coordinates.length > 1 ? `${j.name}: ${c.label}` : j.name,
        })),
      ),
  )
  const coordinateOf = (joint: string, name: string) =>
    drivable.value.find((d) => d.joint === joint && (!name || d.coordinate.name === name))?.coordinate ?? null
  const laws = computed(() => registries.found?.laws ?? [])
  const kinds = computed(() => registries.found?.loads ?? [])
  /** What a driver may say first, by its law and what it drives. */
  function example(law: string, joint: string, name: string): string {
    const c = coordinateOf(joint, name)
    const turns = c?.unit !== 'mm'
    if (law === 'speed') return turns ? '60 rpm' : '20 mm/s'
    if (law === 'go_to') {
      const goal = c?.most ?? (turns ? 90 : 50)
      return `${trim(goal, 2)} ${turns ? 'deg' : 'mm'}`
    }
    return law === 'formula' ? (turns ? '30 deg * sin(360 deg * t / 1 s)' : '10 mm * sin(360 deg * t / 1 s)') : ''
  }
  /** What goes round for ever is driven at a speed, what has an end to a value. */
  function firstLaw(joint: string, name: string): string {
    const c = coordinateOf(joint, name)
    return c?.least != null || c?.most != null ? 'go_to' : 'speed'
  }
  function drive(): void {
    const d = draft.value
    const taken = new Set(d?.drivers.map((x) => `${x.joint} ${x.coordinate}`))
    const free = drivable.value.find((x) => !taken.has(x.key)) ?? drivable.value[0]
    if (!d || !free) return
    const [joint, coordinate] = [free.joint, free.coordinate.name]
    const law = firstLaw(joint, coordinate)
    d.drivers.push({ joint, coordinate, law, value: example(law, joint, coordinate), over: '', points: '' })
  }
  function load(kind: string): void {
    const k = kinds.value.find((x) => x.kind === kind)
    const c = drivable.value[0]
    if (!draft.value || !k) return
    const slides = k.slots.some((s) => s.name === 'joint') && c?.coordinate.unit === 'mm'
    const value = slides ? { joint_spring: '1 N/mm', effort: '10 N' }[kind] : undefined
    const slot = (name: string): string => (name === 'value' && value) || (k.slots.find((s) => s.name === name)?.default ?? '')
    draft.value.loads.push({
      kind, joint: c?.joint ?? '', coordinate: c?.coordinate.name ?? '', a: null, b: null, along: slot('along') || '-Z',
      value: slot('value'), rest: '', damping: '',
    }) // prettier-ignore
    if (k.slots.some((s) => s.name === 'a')) asking.value = { load: draft.value.loads.length - 1, side: 'a' }
  }
  function take(end: End): void {
    const [d, a] = [draft.value, asking.value]
    if (!d || !a) return
    if (a === 'trace') {
      const name = doc.assembly?.components?.find((c) => c.id === end.component)?.name ?? 'place'
      const again = d.traced.filter((t) => t.name === name || t.name.startsWith(`${name} `)).length
      d.traced.push({ name: again ? `${name} ${again + 1}` : name, at: end })
      asking.value = null
    } else if (a === 'watch') {
      const path = [originalOf(end.component), ...end.path].join('/')
      if (!half.value) half.value = path
      else if (half.value !== path) {
        d.watched.push({ a: half.value, b: path })
        half.value = asking.value = null
      }
    } else {
      d.loads[a.load][a.side] = end
      const b = kinds.value.find((k) => k.kind === d.loads[a.load].kind)?.slots.some((s) => s.name === 'b')
      asking.value = a.side === 'a' && b && !d.loads[a.load].b ? { load: a.load, side: 'b' } : null
    }
  }
  function ask(what: Asking): void {
    half.value = null
    asking.value = asking.value === what ? null : what
  }
  function fields(d: Draft): Record<string, unknown> {
    return {
      name: d.name.trim(),
      duration: /^[\d.]+$/.test(d.duration.trim()) ? `${d.duration.trim()} s` : d.duration.trim(),
      frames: d.frames,
      drivers: d.drivers.map(({ points, ...x }) => ({ ...x, points: x.law === 'points' ? pointsOf(points) : [] })),
      loads: d.loads,
      weighed: d.weighed,
      gravity: d.gravity,
      clashes: d.clashes,
      watched: d.watched,
      traced: d.traced,
    }
  }
  async function keep(): Promise<boolean> {
    const d = draft.value
    if (!d) return false
    const command = d.id ? { do: 'edit_run', id: d.id, ...fields(d) } : { do: 'keep_run', ...fields(d) }
    if (!(await doc.edit([command as Command], d.id ? 'edit run' : 'new run'))) return false
    chosen.value = d.id ?? doc.assembly?.runs?.find((r) => r.name === d.name.trim())?.id ?? null
    discard()
    return true
  }
  async function go(id = run.value?.id): Promise<void> {
    back()
    if (id) await jobs.start('run', { run: id }).catch(doc.refused)
  }
  async function keepAndGo(): Promise<void> {
    if (await keep()) await go()
  }
  async function remove(id: string): Promise<void> {
    back()
    await doc.edit([{ do: 'remove_run', id }], 'remove run')
  }
  function discard(): void {
    draft.value = asking.value = half.value = null
  }
  /** Ways of traced places as pairs of points. */
  const trails = computed(() =>
    shows.value
      ? (result.value?.traces ?? []).map((t) => new Float32Array(t.points.slice(1).flatMap((p, k) => [...t.points[k], ...p])))
      : [],
  )
  /** The picture, for files. */
  const engine = shallowRef<Engine | null>(null)
  return {
    runs, run, chosen, job, result, series, wanted, plotted, plot, at, playing, pace, loop, shows, show, showAt, play, look, back, stay,
    draft, asking, half, begin, edit, drive, load, take, ask, keep, go, keepAndGo, remove, discard, drivable, coordinateOf, laws,
    kinds, example, firstLaw, trails, near, engine,
  } // prettier-ignore
})

/** What goes smoothly, with its speeds, at a time between two at which it is known. */
export function between(times: number[], values: number[], speeds: number[], time: number): number {
  let k = nearest(times, time)
  if (k > 0 && times[k] > time) k--
  if (k >= times.length - 1) return values[times.length - 1]
  const step = times[k + 1] - times[k]
  const x = Math.min(Math.max((time - times[k]) / step, 0), 1)
  const [a, b, u, v] = [values[k], values[k + 1], speeds[k] * step, speeds[k + 1] * step]
  return a + x * u + x * x * (3 * (b - a) - 2 * u - v) + x * x * x * (2 * (a - b) + u + v)
}

/** The number of the value nearest to one, among values that grow. */
export function nearest(values: number[], wish: number): number {
  let [low, high] = [0, values.length - 1]
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (values[middle] <= wish) low = middle
    else high = middle
  }
  return Math.abs(values[high] - wish) < Math.abs(wish - values[low]) ? high : low
}
