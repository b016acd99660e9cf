<script setup lang="ts">
// A row of a card that holds what is picked in the picture; a click picks it anew.
defineProps<{ label: string; words: string; next: boolean; set: boolean; title?: string; testid: string }>()
defineEmits<{ anew: [] }>()
</script>

<template>
  <div class="row">
    <label>{{ label }}</label>
    <button
      class="pickbox"
      :class="{ on: next, set }"
      :title="title ?? (set ? 'Click to pick it anew' : '')"
      :data-testid="testid"
      @click="$emit('anew')"
    >
      {{ words }}
    </button>
  </div>
</template>
