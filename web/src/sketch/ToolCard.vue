<script setup lang="ts">
// Beside the sketch: the tool in hand, what it waits for, sizes that do not follow the pointer.
import Icon from '../ui/Icon.vue'
import { useSketch } from './store'
import { useTool } from './tool'

const sketch = useSketch()
const tool = useTool()
const on = (name: string): boolean => tool.texts[name] === 'yes'
</script>

<template>
  <article v-if="tool.tool" class="ask-card" data-testid="tool-card">
    <header>
      <Icon :name="tool.tool.icon" :size="16" /><b>{{ tool.tool.label }}</b>
    </header>
    <p class="muted">{{ tool.tool.line }}</p>
    <p v-if="tool.prompt" class="prompt">
      {{ tool.picking ? `${sketch.selected.length} selected: ${tool.prompt}` : `Next: ${tool.prompt}` }}
    </p>
    <template v-for="s in tool.standing" :key="s.name">
      <label v-if="s.kind === 'flag'" class="flag"
        ><input
          type="checkbox"
          :checked="on(s.name)"
          :data-testid="`given-${s.name}`"
          @change="tool.texts[s.name] = on(s.name) ? '' : 'yes'"
        />{{ s.label }}</label
      >
      <label v-else
        >{{ s.label
        }}<input
          v-model="tool.texts[s.name]"
          class="field"
          spellcheck="false"
          autocomplete="off"
          :data-testid="`given-${s.name}`"
          @keydown.stop
          @keydown.enter.stop="tool.enter()"
      /></label>
    </template>
    <p v-if="tool.trouble" class="bad" data-testid="tool-trouble">{{ tool.trouble }}</p>
    <footer>
      <button class="btn small" @click="sketch.tool = 'select'">Done</button>
      <button
        v-if="!tool.tool.spots.length || tool.picking"
        class="btn main small"
        data-testid="tool-apply"
        :disabled="tool.picking && !sketch.selected.length"
        @click="tool.enter()"
      >
        {{ tool.picking ? 'Go on' : 'Apply' }}
      </button>
      <button
        v-else-if="tool.tool.more"
        class="btn main small"
        data-testid="tool-apply"
        :disabled="tool.spots.length < 2"
        @click="tool.enter()"
      >
        End here
      </button>
    </footer>
  </article>
</template>

<style scoped>
.prompt {
  color: var(--accent);
  font-weight: 600;
}
.bad {
  color: var(--bad);
}
label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  color: var(--ink-2);
}
label .field {
  width: 120px;
}
.flag {
  justify-content: flex-start;
  color: var(--ink);
  accent-color: var(--accent);
}
</style>
