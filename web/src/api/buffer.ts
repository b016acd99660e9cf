// Binary buffers of the server: little endian, a header of u32 words, sections one after another.
import { refusalOf } from './client'

/** Reads sections of a buffer in their order, without copies. */
export class Sections {
  readonly head: Uint32Array
  private at: number

  /** Raises Error when the first word is not `magic`. */
  constructor(
    private readonly buffer: ArrayBuffer,
    words: number,
    magic: number,
    what: string,
  ) {
    this.head = new Uint32Array(buffer, 0, words)
    this.at = 4 * words
    if (this.head[0] !== magic) throw new Error(`this is not ${what}`)
  }

  floats(n: number): Float32Array {
    return new Float32Array(this.buffer, this.past(4 * n), n)
  }
  uints(n: number): Uint32Array {
    return new Uint32Array(this.buffer, this.past(4 * n), n)
  }
  bytes(n: number): Int8Array {
    return new Int8Array(this.buffer, this.past(n), n)
  }
  json<T>(bytes: number): T {
    return JSON.parse(new TextDecoder().decode(new Uint8Array(this.buffer, this.past(bytes), bytes))) as T
  }

  private past(bytes: number): number {
    const start = this.at
    this.at += bytes
    return start
  }
}

/** The bytes at an address. Raises Refusal. */
export async function bytesAt(path: string): Promise<ArrayBuffer> {
  const response = await fetch(path)
  if (!response.ok) throw await refusalOf(response)
  return response.arrayBuffer()
}
