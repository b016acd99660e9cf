// Calls to the server. Paths, bodies and answers are typed by the generated schema.
import { saveBlob } from '../ui/files'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Report = Omit<Schemas['Report'], 'lost'> & { lost?: Schemas['Lost'] | null }
export type DocumentView = Schemas['DocumentView']
export type BuildView = Schemas['BuildView']
export type StepView = Schemas['StepView']
export type KindView = Schemas['KindView']
export type FieldView = Schemas['FieldView']
export type SketchView = Schemas['SketchView']
export type RegionView = Schemas['RegionView']
export type Pick = Schemas['Pick']
export type Drawing = Schemas['Drawing']
export type Constraint = Schemas['Constraint']
export type Part = Schemas['Part']
export type Assembly = Schemas['Assembly']
export type Study = Schemas['Study']
export type Step = Schemas['Step']
export type Parameter = Schemas['Parameter']
export type Material = Schemas['Material']

/** A refusal from the server, with everything it said. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly report: Report,
    readonly head: number | null = null,
    readonly changes: string[] = [],
  ) {
    super(report.text)
  }
}

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete'
type Op<P extends keyof paths, M extends Method> = paths[P][M]
type Body<O> = O extends { requestBody: { content: { 'application/json': infer B } } } ? B : undefined
type Answer<O> = O extends { responses: { 200: { content: { 'application/json': infer A } } } } ? A : unknown

interface Options<B> {
  path?: Record<string, string>
  query?: Record<string, string | number | null | undefined>
  body?: B
  signal?: AbortSignal
}

/** Fetch a file and hand it to the browser's downloads. Throws Refusal. */
async function fetched(url: string, how?: RequestInit): Promise<void> {
  const response = await fetch(url, how)
  if (!response.ok) throw await refusalOf(response)
  const named = response.headers.get('Content-Disposition') ?? ''
  const name = /filename\*=UTF-8''([^;]+)/.exec(named)?.[1] ?? 'download'
  saveBlob(await response.blob(), decodeURIComponent(name))
}
export const download = (url: string): Promise<void> => fetched(url)
export const saveAs = (url: string, body: unknown): Promise<void> =>
  fetched(url, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })

export async function refusalOf(response: Response): Promise<Refusal> {
  try {
    const said = (await response.json()) as Schemas['ErrorView']
    return new Refusal(response.status, said.error, said.head ?? null, said.changes ?? [])
  } catch {
    const text = `the server answered with ${response.status}`
    return new Refusal(response.status, { code: 'http', text, where: [], offers: [] })
  }
}

let waiting = 0
/** How many calls wait for their answer. */
export const underWay = (): number => waiting

export async function call<P extends keyof paths, M extends Method>(
  method: M,
  path: P,
  options: Options<Body<Op<P, M>>> = {},
): Promise<Answer<Op<P, M>>> {
  waiting++
  try {
    return await ask(method, path, options)
  } finally {
    waiting--
  }
}

async function ask<P extends keyof paths, M extends Method>(
  method: M,
  path: P,
  options: Options<Body<Op<P, M>>>,
): Promise<Answer<Op<P, M>>> {
  let url: string = path
  for (const [key, value] of Object.entries(options.path ?? {})) url = url.replace(`{${key}}`, encodeURIComponent(value))
  const query = Object.entries(options.query ?? {}).filter(([, v]) => v !== null && v !== undefined)
  if (query.length) url += '?' + new URLSearchParams(query.map(([k, v]) => [k, String(v)])).toString()
  let response: Response
  try {
    response = await fetch(url, {
      method: method.toUpperCase(),
      headers: options.body === undefined ? {} : { 'Content-Type': 'application/json' },
      body: options.body === undefined ? undefined : JSON.stringify(options.body),
      signal: options.signal,
    })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    const text = 'the server does not answer; your last kept edit is safe'
    throw new Refusal(0, { code: 'offline', text, where: [], offers: [] })
  }
  if (!response.ok) throw await refusalOf(response)
  return (await response.json()) as Answer<Op<P, M>>
}
