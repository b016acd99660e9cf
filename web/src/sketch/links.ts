// Geometry from elsewhere: what is linked and how, layouts lying under the sketch, newer files.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, refusalOf, type Drawing, type Report, type Schemas } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import { type Pair, paste } from './model'
import { type Brought, type Underlay, useSketch } from './store'

export type LayoutFile = Schemas['LayoutFileView']
export type LayoutItem = Schemas['LayoutItemView']
export type Replaced = Schemas['ReplacedView']
/** Where a link begins: one of pick, body, sketch with curves, layout. */
export type Source = Partial<Pick<Brought, 'pick' | 'body' | 'sketch' | 'curves' | 'layout'>>

/** A place of a file as it lies under the sketch. */
export function placed(u: Underlay, p: Pair): Pair {
  const t = ((u.turn ?? 0) * Math.PI) / 180
  const k = u.scale ?? 1
  const [c, s] = [Math.cos(t) * k, Math.sin(t) * k]
  const at = (u.at ?? [0, 0]) as Pair
  return [at[0] + c * p[0] - s * p[1], at[1] + s * p[0] + c * p[1]]
}

export const useLinks = defineStore('sketch-links', () => {
  const sketch = useSketch()
  const doc = useDocument()
  const registries = useRegistries()
  const way = ref('seen')
  /** Take the whole body, the whole other sketch or the whole chain of a layout. */
  const whole = ref(false)
  const lost = shallowRef<Record<string, Report>>({})
  const files = shallowRef<Record<string, LayoutFile>>({})
  /** A newer file in the place of a layout's, shown before it is taken. */
  const replacing = shallowRef<(Replaced & { name: string }) | null>(null)
  const busy = ref(false)

  const ways = computed(() => {
    const found = new Map<string, { name: string; label: string; lines: string[]; takes: string[] }>()
    for (const w of registries.found?.links ?? []) {
      const one = found.get(w.name) ?? { name: w.name, label: w.label, lines: [], takes: [] }
      one.lines.push(w.line)
      one.takes.push(...w.takes)
      found.set(w.name, one)
    }
    return [...found.values()]
  })
  const takes = computed(() => ways.value.find((w) => w.name === way.value)?.takes ?? [])

  /** What may be picked on bodies for the chosen way. */
  const wanted = computed<'face' | 'edge' | 'any'>(() => {
    if (takes.value.includes('vertex') || (takes.value.includes('face') && takes.value.includes('edge'))) return 'any'
    return takes.value.includes('face') ? 'face' : 'edge'
  })
  /** Other sketches before this one, drawn to be picked from. */
  const others = computed(() => {
    const steps = doc.part?.steps ?? []
    const before = new Set(
      steps
        .slice(
          0,
          steps.findIndex((s) => s.id === sketch.step),
        )
        .map((s) => s.id),
    )
    return (doc.build?.steps ?? [])
      .filter((s) => before.has(s.id) && s.sketch && (s.sketch.curves.length || Object.keys(s.sketch.points).length))
      .map((s) => ({ id: s.id, name: steps.find((x) => x.id === s.id)?.name ?? s.id, sketch: s.sketch! }))
  })

  const request = (drawing: Drawing, brought: Brought[]) => ({
    document: doc.view!.id,
    drawing,
    step: sketch.step!,
    brought,
    underlays: sketch.underlays,
  })

  async function guarded(work: () => Promise<void>): Promise<void> {
    busy.value = true
    try {
      await work()
    } catch (error) {
      doc.refused(error)
    } finally {
      busy.value = false
    }
  }

  /** Link one more source into the sketch. */
  const bring = (source: Source, how = way.value): Promise<void> =>
    guarded(async () => {
      const used = new Set(sketch.brought.map((b) => b.id))
      let n = 1
      while (used.has(`x${n}`)) n++
      const one = { id: `x${n}`, way: how, pick: null, body: null, sketch: null, curves: [], layout: null, ...source } as Brought
      const found = await call('post', '/api/sketch/bring', { body: request(sketch.drawing, [one]) })
      const failure = found.lost?.[one.id]
      if (failure) {
        doc.say(failure.text, 'bad')
        return
      }
      const before = sketch.brought
      sketch.brought = [...before, one]
      if (!(await sketch.apply(found.drawing))) sketch.brought = before
    })

  /** Bring all that is linked up to date with what it comes from. */
  async function refresh(): Promise<void> {
    if (!sketch.brought.length) return
    const found = await call('post', '/api/sketch/bring', { body: request(sketch.drawing, sketch.brought) })
    lost.value = found.lost ?? {}
    await sketch.renew(found.drawing)
  }
  watch(
    () => sketch.step,
    (step) => {
      lost.value = {}
      replacing.value = null
      way.value = 'seen'
      whole.value = false
      if (!step) return
      void guarded(async () => {
        await loadFiles()
        await refresh()
      })
    },
  )

  // A plane that was shifted or turned sees everything else anew.
  watch(
    () => (sketch.frame ? JSON.stringify(sketch.frame) : ''),
    (now, was) => {
      if (now && was && sketch.brought.length) void guarded(refresh)
    },
  )

  /** Keep the geometry as the sketch's own, following nothing. */
  async function letGo(id: string): Promise<void> {
    const next = {
      ...sketch.drawing,
      entities: (sketch.drawing.entities ?? []).map((e) => (e.source === id ? { ...e, source: null } : e)),
    }
    if (await sketch.apply(next as Drawing)) sketch.brought = sketch.brought.filter((b) => b.id !== id)
  }
  function select(id: string): void {
    sketch.selected = (sketch.drawing.entities ?? [])
      .filter((e) => e.source === id && (e.type !== 'point' || isAlone(e.id)))
      .map((e) => e.id)
  }
  const isAlone = (point: string): boolean =>
    !(sketch.drawing.entities ?? []).some(
      (e) => e.type !== 'point' && Object.values(e).some((v) => v === point || (Array.isArray(v) && v.includes(point as never))),
    )

  // --- layouts underneath
  async function loadFiles(): Promise<void> {
    for (const u of sketch.underlays) {
      if (files.value[u.file]) continue
      const found = await call('get', '/api/documents/{id}/layouts/{file}', { path: { id: doc.view!.id, file: u.file } })
      files.value = { ...files.value, [u.file]: found }
    }
  }
  async function send(url: string, file: File): Promise<Response> {
    const response = await fetch(url, { method: 'POST', body: file, headers: { 'X-File-Name': encodeURIComponent(file.name) } })
    if (!response.ok) throw await refusalOf(response)
    return response
  }
  const told = (left: Record<string, number>): string =>
    Object.entries(left)
      .map(([kind, n]) => `${n} ${kind}`)
      .join(', ')

  /** Lay a DXF or SVG file under the sketch. */
  const lay = (file: File): Promise<void> =>
    guarded(async () => {
      const found = (await (await send(`/api/documents/${doc.view!.id}/layouts`, file)).json()) as LayoutFile
      files.value = { ...files.value, [found.file]: found }
      const used = new Set(sketch.underlays.map((u) => u.id))
      let n = 1
      while (used.has(`u${n}`)) n++
      sketch.underlays = [
        ...sketch.underlays,
        { id: `u${n}`, file: found.file, source: file.name, at: [0, 0], turn: 0, scale: 1, hidden: [], shown: true },
      ]
      sketch.remember()
      const left = told(found.left)
      doc.say(
        `${found.items.length} curves on ${found.layers.length} ${found.layers.length === 1 ? 'layer' : 'layers'} of ${file.name}${left ? `; left out: ${left}` : ''}`,
        left ? 'plain' : 'good',
      )
    })
  /** Put the curves of a file into the sketch as its own. */
  const own = (file: File): Promise<void> =>
    guarded(async () => {
      const found = (await (await send('/api/sketch/layout', file)).json()) as Schemas['LayoutView']
      const { drawing: next, added } = paste(sketch.drawing, found.drawing as Drawing, [0, 0])
      if (!(await sketch.apply(next))) return
      sketch.selected = added
      const left = told(found.left)
      doc.say(`${added.length} curves from ${file.name}${left ? `; left out: ${left}` : ''}`, left ? 'plain' : 'good')
    })
  const change = (id: string, fields: Partial<Underlay>): Promise<void> =>
    guarded(async () => {
      const before = sketch.underlays
      sketch.underlays = before.map((u) => (u.id === id ? { ...u, ...fields } : u))
      sketch.remember()
      if ('at' in fields || 'turn' in fields || 'scale' in fields) await refresh()
    })
  async function lift(id: string): Promise<void> {
    const followers = sketch.brought.filter((b) => b.layout?.underlay === id)
    for (const b of followers) await letGo(b.id)
    sketch.underlays = sketch.underlays.filter((u) => u.id !== id)
    sketch.remember()
  }
  /** Take a curve of a layout, or all that hangs together with it. */
  async function take(u: Underlay, item: LayoutItem): Promise<void> {
    const plain = (i: Schemas['LayoutItem']): Schemas['LayoutItem'] => ({
      key: i.key,
      form: i.form,
      layer: i.layer,
      at: i.at,
      length: i.length,
    })
    let items = [plain(item)]
    if (whole.value) {
      await guarded(async () => {
        items = (await call('post', '/api/sketch/layout_chain', { body: { document: doc.view!.id, file: u.file, key: item.key } })).items
      })
    }
    const has = new Set(sketch.brought.filter((b) => b.layout?.underlay === u.id).flatMap((b) => b.layout!.items.map((i) => i.key)))
    items = items.filter((i) => !has.has(i.key))
    if (items.length) await bring({ layout: { underlay: u.id, items } }, 'seen')
  }
  /** Look at what a newer file would change. */
  const compare = (u: Underlay, file: File): Promise<void> =>
    guarded(async () => {
      const newer = (await (await send(`/api/documents/${doc.view!.id}/layouts`, file)).json()) as LayoutFile
      files.value = { ...files.value, [newer.file]: newer }
      const found = await call('post', '/api/sketch/replace_layout', {
        body: { ...request(sketch.drawing, sketch.brought), underlay: u.id, file: newer.file, source: file.name },
      })
      replacing.value = { ...found, name: file.name }
    })
  const replace = (): Promise<void> =>
    guarded(async () => {
      const found = replacing.value
      if (!found) return
      sketch.underlays = found.underlays
      sketch.brought = found.brought
      lost.value = found.lost
      replacing.value = null
      await sketch.renew(found.drawing)
    })

  return {
    way,
    whole,
    ways,
    takes,
    wanted,
    others,
    lost,
    files,
    replacing,
    busy,
    bring,
    refresh,
    letGo,
    select,
    lay,
    own,
    change,
    lift,
    take,
    compare,
    replace,
    loadFiles,
  }
})
