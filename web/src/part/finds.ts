// What quick entry finds in a part: kinds of step, or the tools of an open sketch; steps by name.
import { useDocument, useRegistries } from '../document/store'
import { useSketch } from '../sketch/store'
import { useTool } from '../sketch/tool'
import type { Finds } from '../shell/quick'
import { useEdited } from './edited'

export function partFinds(): Finds {
  const doc = useDocument()
  const registries = useRegistries()
  const drawing = useSketch().open
  return {
    steps: drawing ? [] : registries.steps,
    tools: drawing ? (registries.found?.tools ?? []) : [],
    named: (doc.part?.steps ?? []).map((s) => ({
      label: s.name,
      detail: 'step',
      icon: registries.kind(s.kind)?.icon ?? 'box',
      run: { step: s.id },
    })),
    async run({ draw, texts, tool, fields, step }) {
      if (draw) await useTool().begin(draw, texts ?? {})
      else if (tool) await useEdited().begin(tool, fields)
      else if (step) await useEdited().edit(step)
    },
  }
}
