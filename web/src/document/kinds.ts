// What a kind of document is on the screen: one entry each. Words and icons come from the server.
import { type Component, defineAsyncComponent } from 'vue'
import { call, type DocumentView, type Schemas } from '../api/client'
import { assemblyFinds } from '../assembly/finds'
import { useJoining } from '../assembly/joining'
import { useMoving } from '../assembly/moving'
import { useSharing } from '../assembly/sharing'
import { useAssembly } from '../assembly/store'
import { useMaking } from '../assembly/inplace'
import { usePrinting } from '../exchange/printing'
import { useEdited } from '../part/edited'
import { useInPlace } from '../part/inplace'
import { partFinds } from '../part/finds'
import { useSketch } from '../sketch/store'
import type { Finds } from '../shell/quick'
import { assemblyBodies, type Beside, partBodies } from './bodies'
import type { Command } from './store'

export type Kind = Schemas['DocumentLine']['kind']

/** Something to hand over: a file by its ending, or what the page does with it. */
export interface HandOver {
  key: string
  label: string
  /** A command it is, or something it opens; a file is fetched otherwise. */
  does?: () => Command | void
}

export interface PageKind {
  page: Component
  /** Whether the document store builds it step by step. */
  builds: boolean
  /** What making one asks for besides its name. */
  asks: 'start' | 'part' | null
  handOver: (view: DocumentView) => HandOver[]
  /** It as a second pane shows it; null when there is nothing to see. */
  beside: ((view: DocumentView) => Promise<Beside>) | null
  /** What quick entry finds besides what any document has. */
  finds?: () => Finds
  /** Panels of its own over the page, shown when they say so. */
  panels: { component: Component; shown: () => boolean }[]
  /** Forget what was open in one before another is opened. */
  reset: () => void
}

const part: PageKind = {
  page: defineAsyncComponent(() => import('../part/PartPage.vue')),
  builds: true,
  asks: 'start',
  handOver: (view) => {
    const offered = 'template' in view.document && view.document.template
    return [
      { key: 'step', label: 'STEP, exact' },
      { key: 'step?schema=AP242', label: 'STEP by AP242' },
      { key: 'brep', label: 'BREP, exact, surfaces too' },
      { key: 'glb', label: 'GLB, triangles to look at' },
      { key: 'print', label: 'For printing: 3MF, STL', does: () => void (usePrinting().shown = true) },
      {
        key: 'template',
        label: offered ? 'No longer a start for new parts' : 'Offer as a start for new parts',
        does: () => ({ do: 'set_template', on_offer: !offered }),
      },
    ]
  },
  beside: async (view) => {
    const build = await call('get', '/api/documents/{id}/build', { path: { id: view.id }, query: { revision: view.revision } })
    const bodies = await partBodies(build)
    return { bodies, views: view.document.views ?? [], hides: new Map(bodies.map((b) => [b.id, b.id])) }
  },
  finds: partFinds,
  panels: [{ component: defineAsyncComponent(() => import('../exchange/PrintPanel.vue')), shown: () => usePrinting().shown }],
  reset: () => {
    useEdited().discard()
    useInPlace().close()
    useSketch().stop()
  },
}

const assembly: PageKind = {
  page: defineAsyncComponent(() => import('../assembly/AssemblyPage.vue')),
  builds: false,
  asks: null,
  handOver: () => [
    { key: 'step', label: 'STEP, names and colours' },
    { key: 'step?schema=AP242', label: 'STEP by AP242' },
    { key: 'glb', label: 'GLB, triangles to look at' },
    { key: 'share', label: 'Share copy for outsiders …', does: () => void useSharing().begin() },
  ],
  beside: async (view) => {
    const built = await call('get', '/api/documents/{id}/assembly', { path: { id: view.id } })
    const hides = new Map(built.leaves.map((l) => [l.id, l.component]))
    return { bodies: await assemblyBodies(built), views: view.document.views ?? [], hides }
  },
  finds: assemblyFinds,
  panels: [],
  reset: () => {
    useJoining().discard()
    useMaking().discard()
    useMoving().discard()
    useSharing().close()
    useAssembly().close()
  },
}

const study: PageKind = {
  page: defineAsyncComponent(() => import('../study/StudyPage.vue')),
  builds: false,
  asks: 'part',
  handOver: () => [],
  beside: null,
  panels: [],
  reset: () => {},
}

export const KINDS: Record<Kind, PageKind> = { part, assembly, study }
