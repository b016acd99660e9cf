// What the rail of a part offers: kinds of steps by group, and the tools of an open sketch.
import { computed, type ComputedRef } from 'vue'
import { useDocument, useRegistries } from '../document/store'
import type { Verb } from '../shell/VerbRail.vue'
import { useLinks } from '../sketch/links'
import { useInPlace } from './inplace'
import { useSketch } from '../sketch/store'
import { keyName } from '../sketch/tool'

const GROUP_ICON: Record<string, string> = {
  Sketch: 'sketch',
  Grow: 'extrude',
  Cut: 'cut',
  Edges: 'fillet',
  Faces: 'faces',
  Copy: 'copies',
  Sheet: 'sheet',
  Refer: 'refer',
  'In place': 'link',
}
const ORDER = ['In place', 'Sketch', 'Grow', 'Cut', 'Edges', 'Faces', 'Sheet', 'Copy', 'Refer']
/** Groups of sketch tools in the rail, each with the icon it shows. */
const SKETCH_GROUPS: [string, string][] = [
  ['Line', 'line'],
  ['Box', 'rectangle'],
  ['Circle', 'circle'],
  ['Arc', 'arc'],
  ['Spline', 'curve'],
  ['Point', 'point'],
  ['Change', 'trim'],
  ['Copy', 'copies'],
]

export function useRail(hasBodies: () => boolean): { steps: ComputedRef<Verb[]>; sketch: ComputedRef<Verb[]> } {
  const doc = useDocument()
  const sketch = useSketch()
  const links = useLinks()
  const registries = useRegistries()
  const inplace = useInPlace()

  const stepVerbs = computed<Verb[]>(() => {
    const groups = new Map<string, Verb>()
    for (const k of registries.steps) {
      if (k.group === 'In place' && !inplace.place) continue
      const verb = groups.get(k.group) ?? { label: k.group, icon: GROUP_ICON[k.group] ?? k.icon, tools: [] }
      verb.tools.push({ key: k.kind, label: k.label, icon: k.icon, line: k.line })
      groups.set(k.group, verb)
    }
    const extrude = registries.kind('extrude')
    if (extrude)
      groups.get('Cut')?.tools.unshift({
        key: 'extrude:cut',
        label: 'Cut with a profile',
        icon: 'extrude',
        line: 'Take away what regions of a sketch sweep',
      })
    const rank = (v: Verb): number => (ORDER.includes(v.label) ? ORDER.indexOf(v.label) : ORDER.length)
    return [...groups.values()].sort((a, b) => rank(a) - rank(b))
  })

  const linkable = computed(
    () =>
      sketch.underlays.length > 0 ||
      links.others.length > 0 ||
      ((doc.part?.steps ?? []).findIndex((s) => s.id === sketch.step) > 0 && hasBodies()),
  )
  const sketchVerbs = computed<Verb[]>(() => {
    const own = (key: string, label: string, icon: string, line: string): Verb => ({
      label,
      icon,
      tools: [{ key: `draw:${key}`, label, icon, line }],
    })
    const listed = registries.found?.tools ?? []
    const groups = SKETCH_GROUPS.map(([label, icon]) => ({
      label,
      icon,
      tools: listed
        .filter((t) => t.group === label)
        .map((t) => ({
          key: `draw:${t.name}`,
          label: t.label,
          icon: t.icon,
          line: t.key ? `${t.line} (${keyName(t.key)})` : t.line,
        })),
    }))
    return [
      own('select', 'Select', 'hand', 'Select and drag (Esc)'),
      ...groups.filter((g) => g.tools.length),
      ...(linkable.value
        ? [own('bring', 'Link', 'link', 'Take edges, faces, cuts, other sketches or layouts: they come in and follow (I)')]
        : []),
      own('measure', 'Measure', 'ruler', 'Read sizes off: one thing, two, a closed run (M)'),
      own('dimension', 'Size', 'dimension', 'Click what to measure, then where the size stands (D)'),
      own('construction', 'Aid', 'construction', 'Curves that only help (G)'),
    ]
  })
  return { steps: stepVerbs, sketch: sketchVerbs }
}
