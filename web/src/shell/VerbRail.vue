<script setup lang="ts">
// What one can do: icon over word; a group with several tools opens a fly-out.
import { NPopover } from 'naive-ui'
import { ref } from 'vue'
import Icon from '../ui/Icon.vue'

export interface Tool {
  key: string
  label: string
  icon: string
  line: string
}
export interface Verb {
  label: string
  icon: string
  tools: Tool[]
}

defineProps<{ verbs: Verb[]; active?: string | null }>()
const emit = defineEmits<{ tool: [key: string] }>()
const shown = ref<string | null>(null)

function press(verb: Verb): void {
  if (verb.tools.length === 1) emit('tool', verb.tools[0].key)
}
function choose(tool: Tool): void {
  shown.value = null
  emit('tool', tool.key)
}
</script>

<template>
  <nav class="rail" aria-label="Tools">
    <template v-for="verb in verbs" :key="verb.label">
      <NPopover
        trigger="click"
        placement="right-start"
        :show-arrow="false"
        :disabled="verb.tools.length < 2"
        :show="shown === verb.label"
        style="padding: 6px"
        @update:show="(v: boolean) => (shown = v ? verb.label : null)"
      >
        <template #trigger>
          <button
            class="verb"
            :class="{ on: verb.tools.some((t) => t.key === active) }"
            :title="verb.tools.length === 1 ? verb.tools[0].line : undefined"
            :data-testid="`verb-${verb.label.toLowerCase()}`"
            @click="press(verb)"
          >
            <Icon :name="verb.icon" :size="22" />
            <span>{{ verb.label }}</span>
          </button>
        </template>
        <button v-for="tool in verb.tools" :key="tool.key" class="tool" :data-testid="`tool-${tool.key}`" @click="choose(tool)">
          <Icon :name="tool.icon" :size="20" />
          <span
            ><b>{{ tool.label }}</b
            ><small>{{ tool.line }}</small></span
          >
        </button>
      </NPopover>
    </template>
  </nav>
</template>

<style scoped>
.rail {
  width: 66px;
  flex: none;
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 8px 5px;
  background: var(--panel-2);
  border-right: 1px solid var(--line);
}
.verb {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  padding: 7px 2px;
  border-radius: 7px;
  color: var(--ink-2);
  font-size: 12px;
}
.verb:hover {
  background: color-mix(in srgb, var(--accent-soft) 70%, transparent);
  color: var(--ink);
}
.verb.on {
  background: var(--accent-soft);
  color: var(--accent);
  font-weight: 600;
}
.tool {
  display: flex;
  width: 100%;
  gap: 10px;
  align-items: center;
  text-align: left;
  padding: 7px 10px;
  border-radius: 6px;
}
.tool:hover {
  background: var(--accent-soft);
}
.tool b {
  display: block;
  font-weight: 600;
}
.tool small {
  color: var(--ink-3);
  font-size: 12px;
}
</style>
