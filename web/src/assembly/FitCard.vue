<script setup lang="ts">
// The pair of components that is looked at: what they share, the way out, a cut through the worst place.
import { Box3, Vector3 } from 'three'
import { computed, watch } from 'vue'
import Icon from '../ui/Icon.vue'
import { sentence } from '../ui/format'
import { fineLength, fineVolume } from '../ui/units'
import type { Engine } from '../viewport/engine'
import type { Triple } from '../viewport/mesh'
import { usePanes } from '../viewport/panes'
import { useFit } from './fit'

const props = defineProps<{ engine: Engine }>()
const fit = useFit()
const panes = usePanes()

const row = computed(() => fit.row)
/** Where to look: the deepest place, or the middle of where they come nearest. */
const spot = computed<Vector3 | null>(() => {
  const r = row.value
  if (!r) return null
  if (r.near) return new Vector3(...(r.near[0] as Triple)).lerp(new Vector3(...(r.near[1] as Triple)), 0.5)
  return r.state === 'overlap' || r.text ? new Vector3(...(r.at as Triple)) : null
})
/** What the two share in the space, or a small room about the place. */
function room(): Box3 | null {
  if (!spot.value) return null
  const all = props.engine.box().getSize(new Vector3()).length()
  const body = fit.overlap ? props.engine.body('overlap') : undefined
  const box = body ? new Box3().expandByObject(body.faces) : new Box3().expandByPoint(spot.value)
  const size = box.getSize(new Vector3()).length()
  return box.expandByScalar(Math.max(0.7 * size, all / (row.value?.text ? 16 : 50)))
}
function go(): void {
  const box = room()
  if (box) props.engine.camera.fit(box)
}
/** Which way one comes out of the other, or is apart from it; none where they only touch. */
function wayOut(): Vector3 {
  const r = row.value!
  const way = new Vector3(...(r.way as Triple))
  if (!way.lengthSq() && r.near) way.subVectors(new Vector3(...(r.near[1] as Triple)), new Vector3(...(r.near[0] as Triple)))
  return way.length() > 1e-6 ? way.normalize() : way.set(0, 0, 0)
}
/** Cut through the deepest place so that the depth is seen: along the way out and along what both share. */
function cut(): void {
  const at = spot.value
  if (!at) return
  const [, , towards] = props.engine.camera.axes()
  const way = wayOut()
  const body = fit.overlap ? props.engine.body('overlap') : undefined
  const size = body ? new Box3().expandByObject(body.faces).getSize(new Vector3()) : new Vector3()
  const axes = [0, 1, 2].map((k) => new Vector3().setComponent(k, 1)).sort((a, b) => b.dot(size) - a.dot(size))
  // What is longest lies in the cut; where the way out runs along it, what is next.
  const long = axes.find((axis) => Math.abs(axis.dot(way)) < 0.9) ?? axes[0]
  const normal = way.lengthSq() ? new Vector3().crossVectors(way, long).normalize() : towards.clone()
  if (normal.dot(towards) < 0) normal.negate()
  panes.control?.cutAt({ normal: normal.toArray(), at: normal.dot(at) })
  // Seen from straight before it.
  props.engine.camera.faceOn(normal, at, 1.6 * room()!.getSize(new Vector3()).length())
}
watch(
  () => [fit.row, fit.overlap],
  () => setTimeout(go, 30),
  { immediate: true },
)
</script>

<template>
  <section v-if="row" class="card over-card" data-testid="fit-card" @pointerdown.stop>
    <header>
      <Icon name="combine" :size="16" /><b>{{ row.name_b ? `${row.name_a} × ${row.name_b}` : row.name_a }}</b>
      <button class="icon-btn" aria-label="Leave this pair" title="Leave this pair (Esc)" @click="fit.leave()">
        <Icon name="close" :size="14" />
      </button>
    </header>
    <p v-if="row.text">{{ sentence(row.text) }}</p>
    <p v-else-if="row.state === 'overlap'">
      {{ row.certain ? '' : '≈ ' }}{{ fineVolume(row.volume) }}, <b>{{ fineLength(row.depth) }}</b> deep
    </p>
    <p v-else-if="row.state === 'clear'">{{ fineLength(row.gap) }} apart</p>
    <p v-else-if="row.state === 'touching'">They touch.</p>
    <footer>
      <button class="btn small" @click="go">Go there</button>
      <button class="btn small" data-testid="fit-cut" @click="cut">Section here</button>
      <label v-if="!row.text"><input v-model="fit.neighbours" type="checkbox" /> neighbours</label>
    </footer>
  </section>
</template>

<style scoped>
.card {
  max-width: 340px;
}
header b {
  flex: 1;
}
p {
  margin: 0;
}
label {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  color: var(--ink-2);
}
</style>
