<script setup lang="ts">
// The drawer at the bottom: tables people keep looking at. Shut it is one line high.
import { computed } from 'vue'
import Icon from '../ui/Icon.vue'

export interface Tab {
  key: string
  label: string
  badge?: number
  tone?: 'bad' | 'plain'
}
const props = defineProps<{ tabs: Tab[]; open: string | null }>()
const emit = defineEmits<{ show: [key: string | null] }>()
const current = computed(() => props.tabs.find((t) => t.key === props.open) ?? null)
</script>

<template>
  <section class="drawer" :class="{ open: current }">
    <div class="tabs" role="tablist">
      <button
        v-for="t in tabs" :key="t.key" role="tab" :aria-selected="t.key === open" :class="{ on: t.key === open }" :data-testid="`tab-${t.key}`"
        @click="emit('show', t.key === open ? null : t.key)"
      >{{ t.label }}<span v-if="t.badge" class="badge" :class="t.tone">{{ t.badge }}</span></button>
      <span class="grow" />
      <button class="icon-btn" :aria-label="current ? 'Shut the drawer' : 'Open the drawer'" :title="current ? 'Shut' : 'Open'" @click="emit('show', current ? null : (tabs[0]?.key ?? null))"><Icon :name="current ? 'down' : 'up'" :size="17" /></button>
    </div>
    <div v-if="current" class="content scroll"><slot :name="current.key" /></div>
  </section>
</template>

<style scoped>
.drawer { flex: none; background: var(--panel); border-top: 1px solid var(--line); display: flex; flex-direction: column; }
.drawer.open { height: 236px; }
.tabs { height: 36px; flex: none; display: flex; align-items: center; gap: 4px; padding: 0 10px 0 14px; }
.tabs > button:not(.icon-btn) { height: 36px; padding: 0 9px; color: var(--ink-2); border-bottom: 2px solid transparent; display: inline-flex; gap: 7px; align-items: center; }
.tabs > button.on { color: var(--accent); font-weight: 600; border-color: var(--accent); }
.badge { background: var(--chip); color: var(--ink-2); border-radius: 9px; padding: 0 7px; font-size: 11px; font-weight: 600; }
.badge.bad { background: var(--bad-soft); color: var(--bad); }
.grow { flex: 1; }
.content { flex: 1; min-height: 0; padding: 0 14px 8px; }
</style>
