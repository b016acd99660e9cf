<script setup lang="ts">
// The two ways to choose: one by one, or what hangs together.
import type { FieldView } from '../api/client'
import { useEdited } from './edited'

const props = defineProps<{ field: FieldView; words: [string, string] }>()
const edited = useEdited()
const tips = [
  'Each region or curve by itself',
  'A click takes everything inside an outline, whatever is drawn in it, or all curves that meet end to end',
]
function take(whole: boolean): void {
  edited.whole = whole
  edited.focus = props.field.name
}
</script>

<template>
  <span class="segmented" role="group" :aria-label="`How ${field.label} are chosen`"
    ><button
      v-for="(word, k) in words"
      :key="word"
      :class="{ on: edited.whole === Boolean(k) }"
      :title="tips[k]"
      :data-testid="`${k ? 'whole' : 'single'}-${field.name}`"
      @click="take(Boolean(k))"
    >
      {{ word }}
    </button></span
  >
</template>
