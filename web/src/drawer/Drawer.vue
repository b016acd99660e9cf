<script setup lang="ts">
// The drawer at the bottom: tables people keep looking at. Shut it is one line high.
import { computed, ref } from 'vue'
import Icon from '../ui/Icon.vue'

export interface Tab {
  key: string
  label: string
  badge?: number
  tone?: 'bad' | 'plain'
}
const props = defineProps<{ tabs: Tab[]; open: string | null }>()
const emit = defineEmits<{ show: [key: string | null] }>()
/** How tall it is when open; dragged at its upper edge. */
const tall = ref(Number(localStorage.getItem('drawer')) || 236)
let grip: { y: number; tall: number } | null = null
function down(event: PointerEvent): void {
  ;(event.target as Element).setPointerCapture(event.pointerId)
  grip = { y: event.clientY, tall: tall.value }
}
function move(event: PointerEvent): void {
  if (grip) tall.value = Math.round(Math.min(innerHeight * 0.7, Math.max(140, grip.tall + grip.y - event.clientY)))
}
function up(): void {
  if (grip) localStorage.setItem('drawer', String(tall.value))
  grip = null
}
const current = computed(() => props.tabs.find((t) => t.key === props.open) ?? null)
</script>

<template>
  <section class="drawer" :class="{ open: current }" :style="current ? { height: `${tall}px` } : {}">
    <div v-if="current" class="edge" title="Drag to make it taller" @pointerdown="down" @pointermove="move" @pointerup="up" />
    <div class="tabs" role="tablist">
      <button
        v-for="t in tabs"
        :key="t.key"
        role="tab"
        :aria-selected="t.key === open"
        :class="{ on: t.key === open }"
        :data-testid="`tab-${t.key}`"
        @click="emit('show', t.key === open ? null : t.key)"
      >
        {{ t.label }}<span v-if="t.badge" class="badge" :class="t.tone">{{ t.badge }}</span>
      </button>
      <span class="grow" />
      <button
        class="icon-btn"
        :aria-label="current ? 'Shut the drawer' : 'Open the drawer'"
        :title="current ? 'Shut' : 'Open'"
        @click="emit('show', current ? null : (tabs[0]?.key ?? null))"
      >
        <Icon :name="current ? 'down' : 'up'" :size="17" />
      </button>
    </div>
    <div v-if="current" class="content scroll"><slot :name="current.key" /></div>
  </section>
</template>

<style scoped>
.drawer {
  flex: none;
  background: var(--panel);
  border-top: 1px solid var(--line);
  display: flex;
  flex-direction: column;
}
.drawer {
  position: relative;
}
.edge {
  position: absolute;
  left: 0;
  right: 0;
  top: -4px;
  height: 8px;
  cursor: ns-resize;
  z-index: 3;
}
.tabs {
  height: 36px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 0 0 0 14px;
}
/* Many tabs on a narrow screen: they go by, the way to shut it stays. */
.tabs {
  overflow-x: auto;
  scrollbar-width: none;
}
.tabs > .icon-btn {
  position: sticky;
  right: 0;
  flex: none;
  margin-right: 8px;
  box-shadow: 8px 0 0 var(--panel);
  background: var(--panel);
}
.tabs > button:not(.icon-btn) {
  white-space: nowrap;
  flex: none;
  height: 36px;
  padding: 0 9px;
  color: var(--ink-2);
  border-bottom: 2px solid transparent;
  display: inline-flex;
  gap: 7px;
  align-items: center;
}
.tabs > button.on {
  color: var(--accent);
  font-weight: 600;
  border-color: var(--accent);
}
.badge {
  background: var(--chip);
  color: var(--ink-2);
  border-radius: 9px;
  padding: 0 7px;
  font-size: 11px;
  font-weight: 600;
}
.badge.bad {
  background: var(--bad-soft);
  color: var(--bad);
}
.grow {
  flex: 1;
}
.content {
  flex: 1;
  min-height: 0;
  padding: 0 14px 8px;
}
</style>
