// What else is chosen for a check: a run, a joint, an axis, a parameter. One entry for each.
import { useRuns } from '../assembly/runs'
import { useDocument, useRegistries } from '../document/store'

export interface Choosing {
  kind: string
  asks: string[]
  /** What is chosen for each. */
  chosen: Record<string, string>
}
export interface Offer {
  value: string
  label: string
}
interface AskKind {
  label: string
  /** Nothing to choose from: typed. */
  typed?: string
  offers: (making: Choosing) => Offer[]
  /** Told when there is nothing to choose. */
  none?: string
  /** The fields of the check that tell it. */
  fields: (value: string) => Record<string, string>
}

const AXES = ['x', 'y', 'z'].map((a) => ({ value: a, label: `along ${a.toUpperCase()}` }))

export function useAsks(): Record<string, AskKind> {
  const doc = useDocument()
  const runs = useRuns()
  const registries = useRegistries()
  return {
    run: {
      label: 'Run',
      offers: () => runs.runs.map((r) => ({ value: r.id, label: r.name })),
      none: 'Make a run first, under Runs',
      fields: (run) => ({ run }),
    },
    coordinate: {
      label: 'Joint',
      // Those that the run drives, where one is asked about.
      offers: (m) => {
        const driven = new Set(runs.runs.find((r) => r.id === m.chosen.run)?.drivers?.map((d) => d.joint))
        const open = m.asks.includes('run') ? runs.drivable.filter((d) => driven.has(d.joint)) : runs.drivable
        return open.map((d) => ({ value: d.key, label: d.name }))
      },
      none: 'No joint here can be asked about',
      fields: (key) => ({ joint: key.split(' ')[0], coordinate: key.split(' ')[1] }),
    },
    side: {
      label: 'Which way',
      offers: () => [
        { value: 'up', label: 'upwards' },
        { value: 'back', label: 'backwards' },
      ],
      fields: (side) => ({ side }),
    },
    list: {
      label: 'List',
      offers: () => registries.found?.lists.map((l) => ({ value: l.kind, label: l.label })) ?? [],
      fields: (list) => ({ list }),
    },
    axis: { label: 'Axis', offers: () => AXES, fields: (axis) => ({ axis }) },
    parameter: {
      label: 'Parameter',
      offers: () => doc.view?.document.parameters?.map((p) => ({ value: p.name, label: p.name })) ?? [],
      none: 'There is no parameter yet',
      fields: (parameter) => ({ parameter }),
    },
    port: {
      label: 'Port',
      offers: () => doc.part?.steps?.filter((s) => s.kind === 'port').map((s) => ({ value: s.id, label: s.name })) ?? [],
      none: 'The part has no port yet: add one as a step',
      fields: (port) => ({ port }),
    },
    edges: {
      label: 'Edges',
      offers: () => [
        { value: 'all', label: 'sharp edges count' },
        { value: 'round', label: 'only what is round' },
      ],
      fields: (edges) => ({ edges }),
    },
    diameter: { label: 'Diameter', typed: 'any diameter', offers: () => [], fields: (diameter) => ({ diameter }) },
  }
}
