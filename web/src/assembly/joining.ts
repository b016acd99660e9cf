// A joint being made or edited: its ends as they are picked, the kind proposed for them, and where
// it would put things, looked at before it is kept.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Report, Schemas } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import type { StoredPick } from '../viewport/mesh'
import { typed } from '../ui/units'
import { type End, useAssembly } from './store'
import { useTrial } from './trial'

export type JointKind = Schemas['JointKindView']
export const SIDES = ['a', 'a2', 'b', 'b2', 'mirror', 'mirror2'] as const
export type Side = (typeof SIDES)[number]
export interface Held {
  value: string
  least: string
  most: string
}

const ROUND = ['cylinder', 'cone', 'torus']
/** What a pick is to a joint: plane, axis (a round face), circle, line, point. */
export function natureOf(pick: StoredPick): string {
  const form = pick.witness?.kind ?? ''
  if (pick.kind === 'vertex' || form === 'sphere') return 'point'
  if (pick.kind === 'edge') return form
  return ROUND.includes(form) ? 'axis' : form
}

/** The kind proposed for two picks; null where none is made for them. */
export function proposed(kinds: JointKind[], a: StoredPick | null, b: StoredPick | null): JointKind | null {
  if (!a || !b) return null
  const pair = [natureOf(a), natureOf(b)].sort().join(' ')
  return kinds.find((k) => k.best.includes(pair)) ?? null
}

const none = (): Record<Side, End | null> => Object.fromEntries(SIDES.map((s) => [s, null])) as Record<Side, End | null>

export const useJoining = defineStore('joining', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const registries = useRegistries()
  const open = ref(false)
  /** Of the joint edited; null for a new one. */
  const id = ref<string | null>(null)
  /** Null until it is chosen or proposed. */
  const kindName = ref<string | null>(null)
  const ends = shallowRef<Record<Side, End | null>>(none())
  /** Null leaves the sense to how things stand. */
  const flip = ref<boolean | null>(null)
  const offset = ref('')
  const factor = ref('')
  const motions = ref<Record<string, Held>>({})
  const kinds = computed(() => registries.found?.joints ?? [])
  const kind = computed(() => kinds.value.find((k) => k.kind === kindName.value) ?? null)
  /** Where ends can be put: two of a side where the kind lies between faces, a plane where it mirrors. */
  const sides = computed<Side[]>(() =>
    SIDES.filter((s) => {
      if (s.startsWith('mirror')) return kind.value?.mirrors ?? false
      return s.length === 1 || (kind.value?.picks[s[0] === 'a' ? 0 : 1] ?? 1) > 1
    }),
  )
  /** The side the next click goes to. */
  const next = computed<Side | null>(() => {
    const e = ends.value
    if (!e.a) return 'a'
    if (kind.value && kind.value.picks[0] > 1 && !e.a2 && !e.b) return 'a2'
    if (!e.b) return 'b'
    if (kind.value?.mirrors) return e.mirror ? null : 'mirror'
    return kind.value && kind.value.picks[1] > 1 && !e.b2 && !e.a2 ? 'b2' : null
  })
  const hint = computed(() => {
    if (kind.value?.hint && next.value) return kind.value.hint
    if (next.value === 'a') return 'Pick a face, an edge or a corner of the first component'
    return next.value ? 'Now of the other component' : null
  })

  function begin(word: string | null): void {
    discard()
    open.value = true
    kindName.value = word
  }
  function edit(joint: Schemas['Joint']): void {
    discard()
    open.value = true
    id.value = joint.id
    kindName.value = joint.kind
    ends.value = Object.fromEntries(SIDES.map((s) => [s, (joint[s] as End | null | undefined) ?? null])) as Record<Side, End | null>
    flip.value = joint.flip ?? null
    offset.value = joint.offset === '0 mm' ? '' : (joint.offset ?? '')
    factor.value = joint.factor ?? ''
    motions.value = Object.fromEntries(
      Object.entries(joint.motions ?? {}).map(([n, m]) => [n, { value: m.value ?? '', least: m.least ?? '', most: m.most ?? '' }]),
    )
    schedule(0)
  }

  /** A click in the picture: on the component of an end it replaces that, or joins it where the
   * kind lies between two faces. */
  function take(end: End): void {
    const e = ends.value
    let side: Side
    if (!e.a) side = 'a'
    else if (kind.value?.mirrors) side = mirrored(end)
    else if (end.component === e.a.component) {
      const several = kindName.value === null ? !e.b : (kind.value?.picks[0] ?? 1) > 1
      side = several && !e.a2 ? 'a2' : 'a'
    } else side = e.b && end.component === e.b.component && (kind.value?.picks[1] ?? 1) > 1 && !e.b2 ? 'b2' : 'b'
    put(side, end)
  }
  /** Where a click goes among two like things and the plane between them. */
  function mirrored(end: End): Side {
    const e = ends.value
    if (!e.b) return end.component === e.a!.component ? 'a' : 'b'
    if (!e.mirror) return 'mirror'
    if (end.component === e.mirror.component) return e.mirror2 ? 'mirror' : 'mirror2'
    return end.component === e.a!.component ? 'a' : end.component === e.b.component ? 'b' : 'mirror'
  }
  function put(side: Side, end: End | null): void {
    const e = { ...ends.value, [side]: end }
    // What belongs to another component cannot stay beside it.
    for (const s of ['a', 'b', 'mirror'] as const) if (e[s]?.component !== e[`${s}2`]?.component) e[`${s}2`] = null
    ends.value = e
    if (kindName.value === null && e.a && e.b) choose((e.a2 ? 'centred' : proposed(kinds.value, e.a.pick, e.b.pick)?.kind) ?? 'fixed')
    schedule(0)
  }
  function choose(word: string): void {
    kindName.value = word
    motions.value = {}
    factor.value = ''
    flip.value = null
    const [one, other] = kind.value?.picks ?? [1, 1]
    const e = ends.value
    const plane = kind.value?.mirrors ? {} : { mirror: null, mirror2: null }
    ends.value = { ...e, a2: one > 1 ? e.a2 : null, b2: other > 1 ? e.b2 : null, ...plane }
    schedule(0)
  }
  const motion = (name: string): Held => (motions.value[name] ??= { value: '', least: '', most: '' })
  function set(name: string, field: keyof Held, text: string): void {
    motions.value = { ...motions.value, [name]: { ...motion(name), [field]: text } }
    schedule(150)
  }
  /** What it reads as it stands, in its unit. */
  const stands = (name: string): number | null =>
    trial.value?.joints.find((j) => j.id === mine.value)?.coordinates.find((c) => c.name === name)?.value ?? null
  /** Hold a coordinate where it stands, or let it go. */
  function hold(name: string): void {
    const now = stands(name)
    const unit = kind.value?.coordinates.find((c) => c.name === name)?.unit ?? 'mm'
    set(name, 'value', motion(name).value || now === null ? '' : `${Number(now.toFixed(4))} ${unit}`)
  }

  const mine = computed(() => id.value ?? `j${(doc.view?.document.last_id ?? 0) + 1}`)
  const command = computed<Command | null>(() => {
    const e = ends.value
    if (!open.value || !kind.value || !e.a || !e.b) return null
    const wide = Math.max(...kind.value.picks) > 1
    if ((wide && !e.a2 && !e.b2) || (kind.value.mirrors && !e.mirror)) return null
    const said = Object.fromEntries(
      kind.value.coordinates
        .map((c) => [c.name, c.unit, motions.value[c.name]] as const)
        .filter(([, , m]) => m && (m.value.trim() || m.least.trim() || m.most.trim()))
        .map(([name, unit, m]) => {
          const text = (t: string): string | null => (t.trim() ? typed(t, unit === 'deg' ? 'angle' : 'length') : null)
          return [name, { value: text(m!.value), least: text(m!.least), most: text(m!.most) }]
        }),
    )
    const fields = {
      ...e,
      flip: flip.value,
      offset: typed(offset.value, 'length') || '0 mm',
      factor: kind.value.factor ? typed(factor.value, kind.value.factor.dimension) || kind.value.factor.default : null,
      motions: said,
    }
    return id.value
      ? { do: 'edit_joint', id: id.value, fields: { ...fields, kind: kind.value.kind } }
      : { do: 'add_joint', kind: kind.value.kind, ...fields }
  })
  const { trial, error, trying, schedule, attempt, end } = useTrial(command, (found) => {
    if (found) asm.look(found)
    else asm.live = null
    fill()
  })
  /** Whether it holds the other way round, as it was looked at. */
  const turned = computed(() => flip.value ?? trial.value?.joints.find((j) => j.id === mine.value)?.flipped ?? false)
  /** What is wrong with it, or with what it meets. */
  const trouble = computed<Report | null>(() => {
    const found = error.value ?? trial.value?.joints.find((j) => j.id === mine.value)?.trouble ?? null
    // What is offered for the joint itself is for one that is kept already.
    const others = found?.offers?.filter((o) => !o.commands?.some((c) => c.id === mine.value))
    return found && { ...found, offers: id.value ? found.offers : others }
  })
  /** What an end moves with: its component, or what is inside one that goes by its own joints. */
  function movesWith(end: End | null): Schemas['ComponentView'] | undefined {
    if (!end) return undefined
    const path = [end.component, ...end.path]
    const ids = path.map((_, k) => path.slice(0, path.length - k).join('/'))
    const views = trial.value?.components ?? []
    return ids.map((id) => views.find((c) => c.id === id)).find((c) => c)
  }
  /** How the other component may move once it holds. */
  const left = computed(() => {
    const [a, b] = [movesWith(ends.value.a), movesWith(ends.value.b)]
    return !b || trouble.value ? null : Math.max(b.freedom, a?.freedom ?? 0)
  })

  /** A condition that asks for a size starts with the one there is. */
  function fill(): void {
    const [only] = kind.value?.coordinates ?? []
    if (!trial.value || id.value || kind.value?.family !== 'Condition' || !only || !SIZED.includes(only.name)) return
    if (!motions.value[only.name]) hold(only.name)
  }

  // Something else was kept meanwhile, an offer taken: it is looked at anew on that ground.
  watch(
    () => doc.view?.revision,
    () => open.value && schedule(0),
  )

  async function keep(): Promise<boolean> {
    if (!command.value) return false
    const kept = await doc.edit([command.value], id.value ? undefined : `join ${kind.value!.label.toLowerCase()}`)
    if (kept) discard()
    else error.value = doc.failure
    return kept
  }
  function discard(): void {
    end()
    if (open.value) asm.live = null
    open.value = false
    flip.value = null
    id.value = kindName.value = null
    ends.value = none()
    offset.value = factor.value = ''
    motions.value = {}
  }
  function turnRound(): void {
    flip.value = !turned.value
    schedule(0)
  }
  return {
    open, id, kindName, kind, kinds, ends, sides, next, hint, flip, turned, offset, factor, motions, trial, trying, trouble, left,
    begin, edit, take, put, choose, motion, set, stands, hold, turnRound, schedule, attempt, keep, discard,
  } // prettier-ignore
})
/** Coordinates of conditions that are sizes one asks for. */
const SIZED = ['distance', 'angle']
