<script setup lang="ts">
/** A document's small picture: its sign stands there until the picture is made, and stays when it cannot be. */
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import Icon from '../ui/Icon.vue'

const props = defineProps<{
  id: string
  kind: string
  revision: number
  /** One of its members; else it is drawn as it stands. */
  member?: { variant?: string | null; options?: Record<string, string> }
  /** As it was at this revision. */
  at?: number
  /** With parameters set so. */
  set?: Record<string, string>
}>()

/** Waits before the picture is asked for again (ms). */
const AGAIN = [1500, 4000, 10000]

const made = ref(false)
const tries = ref(0)
let waiting = 0
const said = (name: string, value: unknown): string =>
  value === undefined ? '' : `&${name}=${encodeURIComponent(typeof value === 'number' ? value : JSON.stringify(value))}`
const which = computed(() => said('member', props.member) + said('revision', props.at) + said('set', props.set))
const source = computed(
  () => `/api/documents/${props.id}/thumbnail.svg?r=${props.revision}${which.value}${tries.value ? `&again=${tries.value}` : ''}`,
)

watch(
  () => [props.id, props.revision, which.value],
  () => {
    made.value = false
    tries.value = 0
  },
)
function failed(): void {
  made.value = false
  const wait = AGAIN[tries.value]
  if (wait !== undefined) waiting = window.setTimeout(() => (tries.value += 1), wait)
}
onBeforeUnmount(() => window.clearTimeout(waiting))
</script>

<template>
  <span class="picture">
    <Icon v-if="!made" :name="kind" :size="34" class="sign" />
    <img :src="source" alt="" loading="lazy" :class="{ made }" @load="made = true" @error="failed" />
  </span>
</template>

<style scoped>
.picture {
  position: relative;
  display: grid;
  place-items: center;
  background: var(--paper);
  border-radius: 6px;
  margin-bottom: 6px;
}
.sign {
  position: absolute;
  color: var(--line-2);
}
img {
  width: 100%;
  aspect-ratio: 16 / 10;
  object-fit: contain;
  opacity: 0;
  transition: opacity 0.2s;
}
img.made {
  opacity: 1;
}
</style>
