// What quick entry finds in an assembly: kinds of joint, components and joints by name.
import { useDocument, useRegistries } from '../document/store'
import type { Finds, Named } from '../shell/quick'
import { useJoining } from './joining'
import { useAssembly } from './store'

export function assemblyFinds(): Finds {
  const doc = useDocument()
  const kinds = useRegistries().found?.joints ?? []
  const named = (label: string, detail: string, icon: string, step: string): Named => ({ label, detail, icon, run: { step } })
  return {
    steps: [],
    tools: [],
    named: [
      ...kinds.map((k) => named(k.label, k.line, k.icon, `kind:${k.kind}`)),
      ...(doc.assembly?.components ?? []).map((c) => named(c.name, c.tag || 'component', 'box', `component:${c.id}`)),
      ...(doc.assembly?.joints ?? []).map((j) =>
        named(j.name, 'joint', kinds.find((k) => k.kind === j.kind)?.icon ?? 'link', `joint:${j.id}`),
      ),
    ],
    async run({ step }) {
      const [what, id] = (step ?? '').split(':')
      const joint = doc.assembly?.joints?.find((j) => j.id === id)
      if (what === 'kind') useJoining().begin(id)
      else if (what === 'component') useAssembly().selected = [id]
      else if (joint) useJoining().edit(joint)
    },
  }
}
