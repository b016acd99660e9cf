<script setup lang="ts">
// What is chosen in the picture: how much, a way to clear it, and beside it what else may be taken.
import type { FieldView } from '../api/client'
import Icon from '../ui/Icon.vue'
import ChipRow from './ChipRow.vue'
import { useField } from './fields/use'

const props = defineProps<{ field: FieldView; words: string }>()
const { list, focused, focus, set } = useField(props)
</script>

<template>
  <ChipRow>
    <button
      class="pickbox"
      :class="{ on: focused }"
      :title="field.hint ?? 'Click in the picture to choose'"
      :data-testid="`picks-${field.name}`"
      @click="focus"
    >
      {{ words }}
    </button>
    <slot />
    <button v-if="list.length" class="icon-btn" title="Clear" aria-label="Clear" @click="set([])">
      <Icon name="close" :size="14" />
    </button>
    <slot name="after" />
  </ChipRow>
</template>
