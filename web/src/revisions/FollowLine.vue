<script setup lang="ts">
// While something is edited: which documents the change goes on into once it is kept.
import { computed } from 'vue'
import Icon from '../ui/Icon.vue'
import { useFollowers } from './followers'

/** Where there is little room only how many there are is told; the title names them. */
const props = defineProps<{ short?: boolean }>()
const followers = useFollowers()
void followers.look()
const MOST = 2
const names = computed(() => followers.found.map((f) => f.name))
const words = computed(() => {
  if (props.short) return names.value.length === 1 ? '1 follows' : `${names.value.length} follow`
  const more = names.value.length - MOST
  return 'goes on into ' + names.value.slice(0, MOST).join(', ') + (more > 0 ? ` and ${more} more` : '')
})
</script>

<template>
  <span v-if="names.length" class="follow" :title="`Once kept, the change goes on into ${names.join(', ')}`" data-testid="follow-line">
    <Icon name="link" :size="13" /> <span>{{ words }}</span>
  </span>
</template>

<style scoped>
.follow {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  min-width: 0;
  max-width: 100%;
  flex: none;
  font-size: 12px;
  color: var(--ink-3);
}
.follow span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
