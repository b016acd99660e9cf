<script setup lang="ts">
// A panel at the right, over the build list: the picture beside it stays in use.
import Icon from './Icon.vue'

defineProps<{ title: string; testid: string }>()
defineEmits<{ shut: [] }>()
</script>

<template>
  <aside class="side" :aria-label="title" :data-testid="testid" @keydown.stop @keydown.esc="$emit('shut')">
    <header>
      <b>{{ title }}</b><slot name="head" /><button
        class="icon-btn"
        aria-label="Shut"
        title="Shut (Esc)"
        :data-testid="`shut-${testid}`"
        @click="$emit('shut')"
      >
        <Icon name="close" :size="16" />
      </button>
    </header>
    <slot />
  </aside>
</template>

<style scoped>
.side {
  position: fixed;
  right: 0;
  top: 48px;
  bottom: 0;
  width: 372px;
  z-index: 30;
  background: var(--panel);
  border-left: 1px solid var(--line-2);
  box-shadow: var(--shadow);
  padding: 10px 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  overflow-y: auto;
}
header {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: none;
}
header b {
  flex: 1;
  font-size: 14px;
}
</style>
