// A perceptually even colour scale, dark blue-green over sand to deep red-brown.
const STOPS: [number, number, number][] = [
  [22, 51, 84],
  [31, 97, 112],
  [73, 139, 122],
  [142, 174, 128],
  [216, 203, 145],
  [222, 165, 104],
  [201, 113, 77],
  [160, 60, 60],
  [104, 22, 44],
]

/** The colour at `t` from 0 to 1, in sRGB from 0 to 255. */
export function scale(t: number): [number, number, number] {
  const x = Math.min(1, Math.max(0, t)) * (STOPS.length - 1)
  const i = Math.min(Math.floor(x), STOPS.length - 2)
  const f = x - i
  return [0, 1, 2].map((k) => STOPS[i][k] + (STOPS[i + 1][k] - STOPS[i][k]) * f) as [number, number, number]
}

/** An sRGB channel (0 to 255) as the light it stands for (0 to 1). */
export const linear = (c: number): number => {
  const v = c / 255
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
}
