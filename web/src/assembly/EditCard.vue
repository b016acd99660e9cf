<script setup lang="ts">
// The card of an open tool: in sight while it is open, Enter keeps, Escape leaves.
import { ref } from 'vue'
import FollowLine from '../revisions/FollowLine.vue'
import { useInSight } from '../ui/inSight'

defineProps<{ testid: string }>()
defineEmits<{ keep: []; leave: [] }>()
const card = ref<HTMLElement | null>(null)
useInSight(card)
</script>

<template>
  <article
    ref="card"
    class="tool-card edit-card"
    :data-testid="testid"
    @keydown.enter.exact.prevent="$emit('keep')"
    @keydown.esc.stop="$emit('leave')"
  >
    <slot />
    <FollowLine />
  </article>
</template>
