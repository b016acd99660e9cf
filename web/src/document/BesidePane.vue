<script setup lang="ts">
// The second pane: the same model looked at another way, or another document of the project.
import { turns } from '../api/newest'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { call } from '../api/client'
import { listen } from '../api/events'
import Icon from '../ui/Icon.vue'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import { follow } from '../viewport/linked'
import { usePanes } from '../viewport/panes'
import ViewPane from '../viewport/ViewPane.vue'
import BesideChoice from './BesideChoice.vue'
import type { Beside } from './bodies'
import { KINDS } from './kinds'
import { useDocument } from './store'

const props = defineProps<{ main: Engine | null; bodies: BodySpec[]; matrices?: Map<string, number[]> | null; tick: number }>()
const doc = useDocument()
const panes = usePanes()
const engine = shallowRef<Engine | null>(null)
const found = shallowRef<Beside | null>(null)
/** What the named view of the other document that was gone to does not show. */
const hidden = ref<string[]>([])
const other = computed<BodySpec[]>(() => found.value?.bodies.filter((b) => !hidden.value.includes(found.value!.hides.get(b.id)!)) ?? [])
const trouble = ref('')
const turn = turns()

async function load(): Promise<void> {
  const newest = turn()
  trouble.value = ''
  if (!panes.shows) return
  try {
    const view = await call('get', '/api/documents/{id}', { path: { id: panes.shows } })
    const beside = await KINDS[view.kind].beside!(view)
    if (newest()) found.value = beside
  } catch (error) {
    if (!newest()) return
    found.value = null
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
watch(
  () => panes.shows,
  async () => {
    hidden.value = []
    found.value = null
    await load()
    engine.value?.fit(false)
  },
  { immediate: true },
)
const stop = listen((news) => {
  if (news.kind === 'document' && panes.shows && news.project === doc.view?.project) void load()
})
onUnmounted(stop)

function link(): void {
  if (panes.linked) follow(props.main, engine.value)
}
watch(() => props.tick, link)
watch(
  () => panes.linked,
  (on) => on && props.main && engine.value?.camera.copy(props.main.camera),
)
function ready(e: Engine): void {
  engine.value = e
  if (props.main) e.camera.copy(props.main.camera)
  if (props.matrices) e.place(props.matrices)
}
watch(
  () => props.matrices,
  (m) => m && !panes.shows && engine.value?.place(m),
)
</script>

<template>
  <ViewPane
    class="beside"
    data-testid="beside"
    :bodies="panes.shows ? other : bodies"
    :views="panes.shows ? (found?.views ?? null) : null"
    :keep-camera="panes.linked"
    secondary
    wanted="any"
    title=""
    :caption="panes.captions?.[1]"
    @hide="(ids) => (hidden = ids)"
    @ready="ready"
    @frame="link"
  >
    <template #name>
      <BesideChoice />
    </template>
    <template #bar>
      <button
        class="icon-btn link"
        :class="{ on: panes.linked }"
        :aria-pressed="panes.linked"
        :title="panes.linked ? 'Cameras linked: both panes turn, shift and zoom as one' : 'Cameras free: link them'"
        aria-label="Linked cameras"
        data-testid="beside-linked"
        @click="panes.linked = !panes.linked"
      >
        <Icon name="link" :size="16" />
      </button>
    </template>
    <p v-if="trouble" class="trouble note">{{ trouble }}</p>
    <p v-else-if="panes.shows && found && !found.bodies.length" class="busy">nothing to show here yet</p>
  </ViewPane>
</template>

<style scoped>
.beside {
  border-left: 1px solid var(--line-2);
}
.link.on {
  background: var(--chip);
}
.note {
  position: absolute;
  left: 12px;
  top: 8px;
  margin: 0;
}
</style>
