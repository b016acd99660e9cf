// The bodies of any document of the project, as they stand, ready for a pane.
import { call, type Schemas } from '../api/client'
import type { BodySpec } from '../viewport/body'
import { fetchMesh } from '../viewport/mesh'

export const PLAIN = '#b9c2bb'

export function materialColour(materials: Schemas['Material'][], id: string | null | undefined): string {
  return materials.find((m) => m.id === id)?.colour ?? PLAIN
}

export async function partBodies(build: Schemas['BuildView'] | null, colour: string, ghost = false): Promise<BodySpec[]> {
  const list = build?.bodies ?? []
  const meshes = await Promise.all(list.map((b) => fetchMesh(b.key)))
  return list.map((b, i) => ({ id: b.id, mesh: meshes[i], colour, ghost }))
}

export async function assemblyBodies(built: Schemas['AssemblyView'] | null): Promise<BodySpec[]> {
  const leaves = built?.leaves ?? []
  const meshes = await Promise.all(leaves.map((l) => fetchMesh(l.key)))
  return leaves.map((l, i) => ({ id: l.id, mesh: meshes[i], colour: l.colour, matrix: l.matrix }))
}

export async function documentBodies(id: string, materials: Schemas['Material'][]): Promise<BodySpec[]> {
  const view = await call('get', '/api/documents/{id}', { path: { id } })
  if (view.kind === 'assembly') return assemblyBodies(await call('get', '/api/documents/{id}/assembly', { path: { id } }))
  const build = await call('get', '/api/documents/{id}/build', { path: { id }, query: { revision: view.revision } })
  return partBodies(build, materialColour(materials, (view.document as Schemas['Part']).material))
}
