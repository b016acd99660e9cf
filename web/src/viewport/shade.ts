// Ambient shading: corners and hollows lie in soft shadow, so that depth can be read. Worked out
// in screen space at half size from what the faces look like from here, laid over them darker.
import {
  CustomBlending,
  FloatType,
  type Camera,
  LinearFilter,
  Matrix4,
  Mesh,
  NearestFilter,
  type Plane,
  PlaneGeometry,
  RGBAFormat,
  Scene,
  ShaderMaterial,
  SrcColorFactor,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
  ZeroFactor,
  DoubleSide,
} from 'three'

/** Faces that throw and take shadow are on this layer too. */
export const SHADED = 1
/** How far a shadow reaches, as a share of the height of the picture. */
const REACH = 0.08
/** Share of the pane's pixels, each way. */
const SCALE = 0.5

const QUAD = 'void main() { gl_Position = vec4(position.xy * 2.0, 0.0, 1.0); }'

/** Normal towards the eye and depth along the view, of every pixel. */
const surfaces = (): ShaderMaterial =>
  new ShaderMaterial({
    side: DoubleSide,
    clipping: true,
    vertexShader: `varying vec3 n; varying float z;
      #include <clipping_planes_pars_vertex>
      void main() {
        vec4 at = vec4(position, 1.0);
        vec3 way = normal;
        #ifdef USE_INSTANCING
          at = instanceMatrix * at;
          way = mat3(instanceMatrix) * way;
        #endif
        vec4 mvPosition = modelViewMatrix * at;
        n = normalMatrix * way; z = mvPosition.z;
        gl_Position = projectionMatrix * mvPosition;
        #include <clipping_planes_vertex>
      }`,
    fragmentShader: `varying vec3 n; varying float z;
      #include <clipping_planes_pars_fragment>
      void main() {
        #include <clipping_planes_fragment>
        vec3 m = normalize(n);
        gl_FragColor = vec4(m.z < 0.0 ? -m.xy : m.xy, z, 1.0);
      }`,
  })

/** How much of the half space over a pixel is open: places around it on a spiral are asked
 * whether they stand up over its tangent plane. The spiral is turned in a pattern of 4 x 4. */
const openness = (): ShaderMaterial =>
  new ShaderMaterial({
    uniforms: { seen: { value: null }, size: { value: new Vector2() }, reach: { value: 1 }, p: { value: new Matrix4() } },
    vertexShader: QUAD,
    fragmentShader: `uniform sampler2D seen; uniform vec2 size; uniform float reach; uniform mat4 p;
      vec3 place(vec2 at, float z) {
        vec2 ndc = at / size * 2.0 - 1.0;
        float w = p[2][3] * z + p[3][3];
        return vec3((ndc * w - vec2(p[2][0], p[2][1]) * z - vec2(p[3][0], p[3][1])) / vec2(p[0][0], p[1][1]), z);
      }
      void main() {
        vec4 here = texelFetch(seen, ivec2(gl_FragCoord.xy), 0);
        if (here.a == 0.0) { gl_FragColor = vec4(1.0); return; }
        vec3 n = vec3(here.xy, sqrt(max(0.0, 1.0 - dot(here.xy, here.xy))));
        vec3 at = place(gl_FragCoord.xy, here.z);
        float far = reach * 2.0 * (p[2][3] * here.z + p[3][3]) / (p[1][1] * size.y);
        vec2 tile = mod(floor(gl_FragCoord.xy), 4.0);
        float turn = (tile.x * 4.0 + tile.y) * 0.3927;
        float shut = 0.0;
        for (int i = 0; i < 10; i++) {
          float share = (float(i) + 0.5) / 10.0;
          float a = turn + float(i) * 2.399963;
          vec2 to = gl_FragCoord.xy + vec2(cos(a), sin(a)) * reach * share;
          vec4 there = texelFetch(seen, ivec2(clamp(to, vec2(0.0), size - 1.0)), 0);
          if (there.a == 0.0) continue;
          vec3 v = place(floor(to) + 0.5, there.z) - at;
          float d = length(v) / far;
          shut += max(0.0, dot(v, n) / max(d * far, 1e-9) - 0.12) * max(0.0, 1.0 - d * d);
        }
        gl_FragColor = vec4(vec3(clamp(1.0 - shut / 10.0 * 2.8, 0.0, 1.0)), 1.0);
      }`,
  })

/** The pattern blurred away among pixels of one surface. */
const blurred = (): ShaderMaterial =>
  new ShaderMaterial({
    uniforms: { open: { value: null }, seen: { value: null }, size: { value: new Vector2() }, thick: { value: 1 } },
    vertexShader: QUAD,
    fragmentShader: `uniform sampler2D open; uniform sampler2D seen; uniform vec2 size; uniform float thick;
      void main() {
        ivec2 mid = ivec2(gl_FragCoord.xy);
        vec4 here = texelFetch(seen, mid, 0);
        if (here.a == 0.0) { gl_FragColor = vec4(1.0); return; }
        float away = sqrt(max(0.0, 1.0 - dot(here.xy, here.xy)));
        float sum = 0.0, weight = 0.0;
        for (int y = -2; y < 2; y++) for (int x = -2; x < 2; x++) {
          ivec2 k = clamp(mid + ivec2(x, y), ivec2(0), ivec2(size) - 1);
          vec4 there = texelFetch(seen, k, 0);
          float alike = dot(there.xy, here.xy) + away * sqrt(max(0.0, 1.0 - dot(there.xy, there.xy)));
          float like = there.a * step(abs(there.z - here.z), thick) * step(0.8, alike);
          sum += like * texelFetch(open, k, 0).r; weight += like;
        }
        gl_FragColor = vec4(mix(vec3(0.40, 0.42, 0.45), vec3(1.0), weight > 0.0 ? sum / weight : 1.0), 1.0);
      }`,
  })

/** Laid over the faces, darker. */
const overlay = (): ShaderMaterial =>
  new ShaderMaterial({
    uniforms: { soft: { value: null }, full: { value: new Vector2() } },
    vertexShader: QUAD,
    fragmentShader: `uniform sampler2D soft; uniform vec2 full;
      void main() { gl_FragColor = vec4(texture2D(soft, gl_FragCoord.xy / full).rgb, 1.0); }`,
    depthTest: false,
    depthWrite: false,
    blending: CustomBlending,
    blendSrc: ZeroFactor,
    blendDst: SrcColorFactor,
  })

export class Shading {
  /** To be drawn with the scene, after the faces and before what lies over them. */
  readonly over: Mesh
  private readonly surfaces = surfaces()
  private readonly passes = { openness: openness(), blurred: blurred() }
  private readonly overlay = overlay()
  private readonly seen: WebGLRenderTarget
  private readonly open = new WebGLRenderTarget(1, 1, { minFilter: NearestFilter, magFilter: NearestFilter, depthBuffer: false })
  private readonly soft = new WebGLRenderTarget(1, 1, { minFilter: LinearFilter, magFilter: LinearFilter, depthBuffer: false })
  private readonly sheet: Mesh
  private readonly table = new Scene()

  /** Null where the graphics cannot hold depths as numbers. */
  static on(renderer: WebGLRenderer): Shading | null {
    return renderer.extensions.has('EXT_color_buffer_float') ? new Shading() : null
  }

  private constructor() {
    this.seen = new WebGLRenderTarget(1, 1, {
      type: FloatType,
      format: RGBAFormat,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
    })
    this.over = new Mesh(new PlaneGeometry(1, 1), this.overlay)
    this.over.frustumCulled = false
    this.over.renderOrder = 0.5
    this.sheet = new Mesh(this.over.geometry, this.passes.openness)
    this.sheet.frustumCulled = false
    this.table.add(this.sheet)
    for (const pass of Object.values(this.passes)) pass.uniforms.seen.value = this.seen.texture
    this.passes.blurred.uniforms.open.value = this.open.texture
    this.overlay.uniforms.soft.value = this.soft.texture
  }

  /** Work out the shadows of a scene for the picture that is drawn next. `tall` is the height in
   * pixels of the whole picture, of which a tile may be drawn. */
  prepare(
    renderer: WebGLRenderer,
    scene: Scene,
    camera: Camera,
    cut: { clippingPlanes: Plane[]; clipIntersection: boolean },
    tall: number,
  ): void {
    const full = renderer.getDrawingBufferSize(new Vector2())
    const [w, h] = [Math.max(1, Math.round(full.x * SCALE)), Math.max(1, Math.round(full.y * SCALE))]
    if (this.seen.width !== w || this.seen.height !== h) for (const t of [this.seen, this.open, this.soft]) t.setSize(w, h)
    Object.assign(this.surfaces, cut)
    const reach = REACH * tall * SCALE
    const { openness, blurred } = this.passes
    openness.uniforms.size.value.set(w, h)
    openness.uniforms.reach.value = reach
    openness.uniforms.p.value.copy(camera.projectionMatrix)
    blurred.uniforms.size.value.set(w, h)
    // What is nearer in depth than a shadow reaches is one surface for the blur.
    blurred.uniforms.thick.value = (reach * 2) / (camera.projectionMatrix.elements[5] * h)
    this.overlay.uniforms.full.value.copy(full)
    const layers = camera.layers.mask
    const before = { override: scene.overrideMaterial, alpha: renderer.getClearAlpha() }
    camera.layers.set(SHADED)
    scene.overrideMaterial = this.surfaces
    renderer.setClearAlpha(0)
    renderer.setRenderTarget(this.seen)
    renderer.clear()
    renderer.render(scene, camera)
    scene.overrideMaterial = before.override
    camera.layers.mask = layers
    for (const [pass, into] of [
      [openness, this.open],
      [blurred, this.soft],
    ] as const) {
      this.sheet.material = pass
      renderer.setRenderTarget(into)
      renderer.render(this.table, camera)
    }
    renderer.setRenderTarget(null)
    renderer.setClearAlpha(before.alpha)
  }

  dispose(): void {
    for (const thing of [this.seen, this.open, this.soft, this.surfaces, ...Object.values(this.passes), this.overlay, this.over.geometry])
      thing.dispose()
  }
}
