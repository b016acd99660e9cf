// The bodies of any document of the project, as they stand, ready for a pane.
import type { Schemas } from '../api/client'
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
    form: b.form,
    paints: b.paints?.length ? b.paints : undefined,
  }))
}

export async function assemblyBodies(built: Schemas['AssemblyView'] | null): Promise<BodySpec[]> {
  const leaves = built?.leaves ?? []
  const meshes = await Promise.all(leaves.map((l) => fetchMesh(l.key)))
  return leaves.map((l, i) => ({
    id: l.id,
    mesh: meshes[i],
    colour: l.colour,
    matrix: l.matrix,
    // What is only modelled against does not hide what it is modelled for.
    opacity: l.reference ? 0.3 : undefined,
  }))
}

/** A document of the project as it stands: its bodies, its named views, and by what id each body
 * is hidden in them. */
export interface Beside {
  bodies: BodySpec[]
  views: Schemas['SavedView'][]
  hides: Map<string, string>
}
