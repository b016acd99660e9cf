// A picture of what a pane shows, at any size: drawn in tiles, so that no size is too large for
// the graphics, only for a file.
import type { WebGLRenderer } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import type { Mesh, Scene } from 'three'
import type { Camera } from './camera'

const TILE = 2048
const LONGEST = 16_384
const MOST = 120_000_000

export interface Pictured {
  scene: Scene
  camera: Camera
  renderer: WebGLRenderer
  canvas: HTMLCanvasElement
  draw(): void
}

/** Why a picture cannot have a size, or null. */
export function sizeTrouble(width: number, height: number): string | null {
  if (![width, height].every((v) => Number.isInteger(v) && v >= 16))
    return 'A picture is at least 16 pixels wide and high, in whole pixels.'
  if (Math.max(width, height) > LONGEST) return `A picture is at most ${LONGEST} pixels long; ${Math.max(width, height)} is more.`
  if (width * height > MOST)
    return `${width} x ${height} are ${Math.round((width * height) / 1e6)} million pixels; a picture holds at most ${MOST / 1e6} million.`
  return null
}

export async function paint(engine: Pictured, width: number, height: number): Promise<Blob> {
  const wrong = sizeTrouble(width, height)
  if (wrong) throw new RangeError(wrong)
  const { renderer, camera, canvas, scene } = engine
  const shown = { width: canvas.clientWidth, height: canvas.clientHeight, ratio: renderer.getPixelRatio() }
  const sheet = document.createElement('canvas')
  sheet.width = width
  sheet.height = height
  const on = sheet.getContext('2d')
  if (!on) throw new RangeError('This browser has no room for a picture of that size.')
  // Lines keep their share of the picture.
  const thicker = height / Math.max(shown.height, 1)
  const lines = new Set<LineMaterial>()
  scene.traverse((thing) => {
    for (const m of [(thing as Mesh).material].flat()) if (m instanceof LineMaterial) lines.add(m)
  })
  for (const m of lines) m.linewidth *= thicker
  try {
    renderer.setPixelRatio(1)
    camera.resize(width, height)
    for (let y = 0; y < height; y += TILE)
      for (let x = 0; x < width; x += TILE) {
        const [w, h] = [Math.min(TILE, width - x), Math.min(TILE, height - y)]
        renderer.setSize(w, h, false)
        camera.three.setViewOffset(width, height, x, y, w, h)
        engine.draw()
        on.drawImage(canvas, x, y)
      }
  } finally {
    camera.three.clearViewOffset()
    for (const m of lines) m.linewidth /= thicker
    renderer.setPixelRatio(shown.ratio)
    renderer.setSize(shown.width, shown.height, false)
    camera.resize(shown.width, shown.height)
    engine.draw()
  }
  return new Promise((done, failed) => {
    sheet.toBlob(
      (blob) => (blob ? done(blob) : failed(new RangeError('This browser has no room for a picture of that size.'))),
      'image/png',
    )
  })
}
