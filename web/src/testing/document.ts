// A document as the server tells it, for tests of what is built around an open one.
import { useDocument } from '../document/store'
import type { Server } from './server'

type Loose = Record<string, unknown>

/** The answer about a document at a revision. */
export const told = (revision: number, document: Loose = {}, more: Loose = {}): Loose => ({
  id: 'd1',
  project: 'p1',
  kind: 'part',
  revision,
  undo: null,
  redo: null,
  ...more,
  document: { kind: more.kind ?? 'part', name: 'Drum', steps: [], parameters: [], material: 'steel', ...document },
})

/** Open it from a server that builds it empty, unless told otherwise before. */
export async function opened(server: Server, document: Loose = {}, more: Loose = {}): Promise<ReturnType<typeof useDocument>> {
  server.on('get /api/documents/*', told(1, document, more)).on('get /api/projects/*/materials', { materials: [{ id: 'steel' }] })
  const doc = useDocument()
  await doc.open('d1', (kind) => kind === 'part')
  server.asked.length = 0
  return doc
}
