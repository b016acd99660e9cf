// Stripes as of lamps mirrored in the skin: they show how faces run into each other.
import { type Plane, ShaderMaterial, type Side } from 'three'

interface Shown {
  side: Side
  polygonOffset: boolean
  polygonOffsetFactor: number
  polygonOffsetUnits: number
  clippingPlanes: Plane[]
  clipIntersection: boolean
}

/** `density`: how many stripes go round half a turn. */
export function stripes(density: number, shown: Shown): ShaderMaterial {
  return new ShaderMaterial({
    ...shown,
    clipping: true,
    uniforms: { density: { value: density } },
    vertexShader: `
      #include <clipping_planes_pars_vertex>
      varying vec3 vNormal;
      varying vec3 vEye;
      void main() {
        vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
        vNormal = normalMatrix * normal;
        vEye = isOrthographic ? vec3(0.0, 0.0, 1.0) : -mvPosition.xyz;
        gl_Position = projectionMatrix * mvPosition;
        #include <clipping_planes_vertex>
      }`,
    fragmentShader: `
      #include <clipping_planes_pars_fragment>
      uniform float density;
      varying vec3 vNormal;
      varying vec3 vEye;
      void main() {
        #include <clipping_planes_fragment>
        vec3 n = normalize(vNormal);
        if (!gl_FrontFacing) n = -n;
        vec3 r = reflect(-normalize(vEye), n);
        // Lamps lie along the depth of the view, one above the other.
        float s = density * atan(r.y, length(r.xz)) / 3.14159265 * 2.0;
        float w = fwidth(s) * 1.2;
        float wave = abs(fract(s) - 0.5);
        float light = smoothstep(0.25 - w, 0.25 + w, wave);
        float shade = 0.72 + 0.28 * n.z;
        gl_FragColor = vec4(mix(vec3(0.03, 0.06, 0.05), vec3(0.93), light) * shade, 1.0);
        #include <colorspace_fragment>
      }`,
  })
}
