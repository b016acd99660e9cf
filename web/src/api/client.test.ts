import { afterEach, describe, expect, it, vi } from 'vitest'
import { Refused, refused, Server } from '../testing/server'
import { bytesAt, Sections } from './buffer'
import { call, download, Refusal, saveAs } from './client'

afterEach(() => vi.unstubAllGlobals())

describe('calls', () => {
  it('put ids into the path as ids and leave out what was not asked', async () => {
    const server = new Server().on('get /api/documents/*/build', { bodies: [] })
    await call('get', '/api/documents/{id}/build', { path: { id: 'a/b c' }, query: { revision: 0, upto: null } })
    expect(server.asked[0]).toEqual({ method: 'get', path: '/api/documents/a%2Fb%20c/build', query: { revision: '0' }, body: undefined })
  })

  it('carry a refusal with everything the server said', async () => {
    new Server().on(
      'post /api/documents/*/undo',
      new Refused(409, {
        error: { code: 'stale', text: 'changed meanwhile', where: ['step:s1'], offers: [] },
        head: 7,
        changes: ['width'],
      }),
    )
    const wrong = await call('post', '/api/documents/{id}/undo', { path: { id: 'd1' }, body: { base: 3 } }).catch((e: unknown) => e)
    expect(wrong).toBeInstanceOf(Refusal)
    expect(wrong).toMatchObject({ status: 409, message: 'changed meanwhile', head: 7, changes: ['width'] })
    expect((wrong as Refusal).report.where).toEqual(['step:s1'])
  })

  it('tell what came where the answer is no report, and that work is safe where none came', async () => {
    const server = new Server().on('get /api/kinds', new Refused(502, '<html>'))
    await expect(call('get', '/api/kinds')).rejects.toMatchObject({ status: 502, message: 'the server answered with 502' })
    server.on('get /api/kinds', new Error('connection refused'))
    await expect(call('get', '/api/kinds')).rejects.toMatchObject({ status: 0, report: { code: 'offline' } })
    await expect(call('get', '/api/kinds')).rejects.toThrow('your last kept edit is safe')
  })

  it('that were given up stay given up: no word of a lost server', async () => {
    new Server().on('get /api/kinds', () => {
      throw new DOMException('given up', 'AbortError')
    })
    await expect(call('get', '/api/kinds')).rejects.toMatchObject({ name: 'AbortError' })
  })

  it('save a file under the name the server gave it', async () => {
    const clicked: string[] = []
    vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) {
      clicked.push(this.download)
    })
    vi.stubGlobal('fetch', async (_: string, how?: RequestInit) => {
      const name = how?.method === 'POST' ? encodeURIComponent('Rührarm 2.step') : 'plain.zip'
      return new Response('x', { headers: { 'Content-Disposition': `attachment; filename*=UTF-8''${name}` } })
    })
    await download('/api/x')
    await saveAs('/api/y', { of: 1 })
    expect(clicked).toEqual(['plain.zip', 'Rührarm 2.step'])
    vi.restoreAllMocks()
  })
})

describe('binary answers', () => {
  const buffer = new ArrayBuffer(8 + 8 + 4 + 4 + 2)
  const view = new DataView(buffer)
  view.setUint32(0, 0xabc, true)
  view.setUint32(4, 2, true)
  view.setFloat32(8, 1.5, true)
  view.setFloat32(12, -2, true)
  view.setUint32(16, 77, true)
  view.setInt8(20, -127)
  new Uint8Array(buffer, 24).set(new TextEncoder().encode('{}'))

  it('are read section by section, as they lie', () => {
    const read = new Sections(buffer, 2, 0xabc, 'a thing')
    expect([...read.head]).toEqual([0xabc, 2])
    expect([...read.floats(2)]).toEqual([1.5, -2])
    expect([...read.uints(1)]).toEqual([77])
    expect([...read.bytes(4)]).toEqual([-127, 0, 0, 0])
    expect(read.json<object>(2)).toEqual({})
  })
  it('of another kind, or cut short, are told from it', () => {
    expect(() => new Sections(buffer, 2, 0xabd, 'a mesh')).toThrow('this is not a mesh')
    expect(() => new Sections(buffer, 2, 0xabc, 'a thing').floats(100)).toThrow(RangeError)
  })
  it('come as they are, or as the refusal they were', async () => {
    const server = new Server().on('get /api/meshes/*', buffer)
    expect((await bytesAt('/api/meshes/k')).byteLength).toBe(buffer.byteLength)
    server.on('get /api/meshes/*', refused(404, 'no mesh of that name'))
    await expect(bytesAt('/api/meshes/k')).rejects.toThrow('no mesh of that name')
  })
})
