<script setup lang="ts">
// A cell being typed that is no number: yes or no, a word, a text, a material, a colour.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import type { Column } from './store'

const props = defineProps<{ column: Column; text: string; label: string }>()
const emit = defineEmits<{ keep: [text: string, how?: 'stay' | 'down' | 'right' | 'left']; leave: [] }>()
const doc = useDocument()
const words = computed<[string, string][] | null>(() => {
  if (props.column.cell === 'flag')
    return [
      ['yes', 'yes'],
      ['no', 'no'],
    ]
  if (props.column.cell === 'choice') return Object.values(props.column.words).map((w) => [w, w])
  if (props.column.cell === 'material') return doc.materials.map((m) => [m.id, m.name])
  return null
})
const value = (event: Event): string => (event.target as HTMLInputElement).value
const focus = ({ el }: { el: HTMLElement }): void => el.focus()
</script>

<template>
  <select
    v-if="words"
    class="field"
    :aria-label="label"
    :value="text"
    @vue:mounted="focus"
    @keydown.stop
    @keydown.esc="emit('leave')"
    @change="emit('keep', value($event))"
    @blur="emit('leave')"
  >
    <option v-for="[v, w] in words" :key="v" :value="v">{{ w }}</option>
  </select>
  <input
    v-else-if="column.cell === 'colour'"
    type="color"
    :aria-label="label"
    :value="text || '#8a8f88'"
    @vue:mounted="focus"
    @keydown.stop
    @change="emit('keep', value($event))"
    @blur="emit('leave')"
  />
  <input
    v-else
    class="field"
    :aria-label="label"
    :value="text"
    maxlength="500"
    spellcheck="false"
    @vue:mounted="({ el }: { el: HTMLInputElement }) => (el.focus(), el.select())"
    @keydown.stop
    @keydown.enter.prevent="emit('keep', value($event), 'down')"
    @keydown.tab.prevent="emit('keep', value($event), ($event as KeyboardEvent).shiftKey ? 'left' : 'right')"
    @keydown.esc="emit('leave')"
    @blur="emit('keep', value($event))"
  />
</template>
