// The bodies of any document of the project, as they stand, ready for a pane.
import { call, type Schemas } from '../api/client'
import type { BodySpec } from '../viewport/body'
import { fetchMesh } from '../viewport/mesh'

/** Bodies as a build has them; those that cannot be built any more stand greyed as they last were. */
export async function partBodies(build: Schemas['BuildView'] | null, ghost = false): Promise<BodySpec[]> {
  const list = [...(build?.bodies ?? []), ...(build?.past ?? [])]
  const meshes = await Promise.all(list.map((b) => fetchMesh(b.key)))
  const now = build?.bodies.length ?? 0
  return list.map((b, i) => ({
    id: b.id,
    mesh: meshes[i],
    colour: b.colour,
    ghost: ghost || i >= now,
    opacity: b.opacity,
    paints: b.paints?.length ? b.paints : undefined,
  }))
}

export async function assemblyBodies(built: Schemas['AssemblyView'] | null): Promise<BodySpec[]> {
  const leaves = built?.leaves ?? []
  const meshes = await Promise.all(leaves.map((l) => fetchMesh(l.key)))
  return leaves.map((l, i) => ({ id: l.id, mesh: meshes[i], colour: l.colour, matrix: l.matrix }))
}

/** A document of the project as it stands: its bodies, its named views, and by what id each body
 * is hidden in them. */
export interface Beside {
  bodies: BodySpec[]
  views: Schemas['SavedView'][]
  hides: Map<string, string>
}

export async function besideOf(id: string): Promise<Beside> {
  const view = await call('get', '/api/documents/{id}', { path: { id } })
  const views = 'views' in view.document ? (view.document.views ?? []) : []
  if (view.kind === 'assembly') {
    const built = await call('get', '/api/documents/{id}/assembly', { path: { id } })
    return { bodies: await assemblyBodies(built), views, hides: new Map(built.leaves.map((l) => [l.id, l.component])) }
  }
  const build = await call('get', '/api/documents/{id}/build', { path: { id }, query: { revision: view.revision } })
  const bodies = await partBodies(build)
  return { bodies, views, hides: new Map(bodies.map((b) => [b.id, b.id])) }
}
