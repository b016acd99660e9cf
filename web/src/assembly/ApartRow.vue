<script setup lang="ts">
// The assembly taken apart: along its joints by itself, or as it was kept by name; played step by step.
import { computed, onUnmounted, ref } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import KeptRow from '../ui/KeptRow.vue'
import { useAssembly } from './store'

const doc = useDocument()
const asm = useAssembly()
const playing = ref(false)
const kept = computed(() => doc.assembly?.explosions ?? [])
let frame = 0

/** Take it apart, all the way; what is looked at already is put together again. */
function show(steps: Schemas['ApartStepView'][]): void {
  stop()
  asm.apart = steps
  asm.share = steps.length ? 1 : 0
}
async function alongJoints(): Promise<void> {
  const view = doc.view
  if (!view) return
  try {
    const found = await call('get', '/api/documents/{id}/assembly/apart', { path: { id: view.id } })
    if (!found.steps.length) doc.say('Nothing comes off: components come off along the joints that hold them', 'bad')
    show(found.steps)
  } catch (error) {
    doc.refused(error)
  }
}
function play(): void {
  if (playing.value) return stop()
  const [from, to] = asm.share >= 1 ? [1, 0] : [asm.share, 1]
  const length = 700 * Math.max(asm.apart.length, 2) ** 0.6
  const began = performance.now()
  playing.value = true
  const step = (now: number): void => {
    const t = Math.min((now - began) / length, 1)
    asm.share = from + (to - from) * t
    if (t < 1 && playing.value) frame = requestAnimationFrame(step)
    else playing.value = false
  }
  frame = requestAnimationFrame(step)
}
function stop(): void {
  cancelAnimationFrame(frame)
  playing.value = false
}
function together(): void {
  stop()
  asm.together()
}
async function keep(name: string, done: () => void): Promise<void> {
  if (await doc.edit([{ do: 'keep_apart', name, steps: asm.apart }])) done()
}
onUnmounted(stop)
</script>

<template>
  <h2>Taken apart</h2>
  <KeptRow
    :items="kept"
    word="apart"
    does="Take apart as in"
    :keeps="asm.apart.length > 0"
    placeholder="keep as …"
    data-testid="apart"
    @take="(id) => show(kept.find((x) => x.id === id)?.steps ?? [])"
    @leave="(id) => doc.edit([{ do: 'remove_apart', id }])"
    @keep="keep"
  >
    <template #first>
      <template v-if="!asm.isApart">
        <button class="btn small" data-testid="apart-joints" @click="alongJoints">Along its joints</button>
        <button class="btn small" data-testid="apart-hand" @click="asm.byHand = true">By hand</button>
      </template>
    </template>
    <p v-if="asm.isApart" class="muted">Drag components off in the picture: along an axis, with Shift any way. The assembly stays.</p>
    <div v-if="asm.isApart" class="way">
      <button
        class="icon-btn"
        :disabled="!asm.apart.length"
        :title="playing ? 'Stop' : 'Play'"
        :aria-label="playing ? 'Stop' : 'Play'"
        data-testid="apart-play"
        @click="play"
      >
        <Icon :name="playing ? 'square' : 'play'" :size="15" />
      </button>
      <input
        v-model.number="asm.share"
        type="range"
        min="0"
        max="1"
        step="0.005"
        aria-label="How far it is taken apart"
        data-testid="apart-share"
        @pointerdown="stop"
      />
      <button class="btn small" data-testid="apart-together" @click="together">Together</button>
    </div>
  </KeptRow>
</template>

<style scoped>
h2 {
  font-size: 14px;
  margin: 14px 4px 6px;
}
p {
  flex: 1 1 100%;
  font-size: 12px;
}
.way {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: 1 1 100%;
}
.way input {
  flex: 1;
  accent-color: var(--accent);
}
</style>
