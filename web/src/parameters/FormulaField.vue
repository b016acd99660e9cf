<script setup lang="ts">
// A field for a formula: completes parameters, functions and units while typing.
import { computed, nextTick, onMounted, ref } from 'vue'
import { useDocument } from '../document/store'
import { suggestions } from './complete'
import { useParameters } from './store'

const props = defineProps<{
  placeholder?: string
  autofocus?: boolean
  /** Begun by typing: go on behind what is there. */ begun?: boolean
  label?: string
  testid?: string
}>()
const text = defineModel<string>({ required: true })
const emit = defineEmits<{ keep: [how: 'stay' | 'down' | 'right' | 'left']; leave: []; blur: [] }>()
const doc = useDocument()
const store = useParameters()
const input = ref<HTMLInputElement | null>(null)
const caret = ref(-1)
const chosen = ref(0)
/** Shut until the next key: Esc, or a word just taken. */
const shut = ref(true)
const place = ref({ left: 0, top: 0, up: false })

const list = computed(() => {
  if (shut.value || caret.value < 0) return []
  const values = doc.build?.parameters ?? {}
  return suggestions(
    text.value,
    caret.value,
    store.parameters.map((p) => ({ name: p.name, shown: values[p.name]?.shown })),
    store.words,
  )
})

onMounted(() => {
  void store.loadWords().catch(doc.refused)
  if (props.autofocus) {
    input.value?.focus()
    if (props.begun) input.value?.setSelectionRange(text.value.length, text.value.length)
    else input.value?.select()
  }
})
function typed(event: Event): void {
  const field = event.target as HTMLInputElement
  text.value = field.value
  caret.value = field.selectionStart ?? -1
  chosen.value = 0
  shut.value = false
  const box = field.getBoundingClientRect()
  const up = innerHeight - box.bottom < 200
  place.value = { left: box.left, top: up ? box.top - 4 : box.bottom + 4, up }
}
async function take(i: number): Promise<void> {
  const s = list.value[i]
  if (!s) return
  text.value = s.text
  shut.value = true
  await nextTick()
  input.value?.focus()
  input.value?.setSelectionRange(s.caret, s.caret)
}
function key(event: KeyboardEvent): void {
  event.stopPropagation()
  const open = list.value.length > 0
  if (open && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
    event.preventDefault()
    chosen.value = (chosen.value + (event.key === 'ArrowDown' ? 1 : -1) + list.value.length) % list.value.length
  } else if (open && event.key === 'Tab') {
    event.preventDefault()
    void take(chosen.value)
  } else if (event.key === 'Escape') {
    if (open) shut.value = true
    else emit('leave')
  } else if (event.key === 'Enter') {
    event.preventDefault()
    shut.value = true
    emit('keep', 'down')
  } else if (event.key === 'Tab') {
    event.preventDefault()
    emit('keep', event.shiftKey ? 'left' : 'right')
  }
}
</script>

<template>
  <input
    ref="input"
    class="field formula"
    :value="text"
    :placeholder="placeholder"
    :aria-label="label ?? 'Formula'"
    spellcheck="false"
    autocomplete="off"
    role="combobox"
    :aria-expanded="list.length > 0"
    :data-testid="testid"
    @input="typed"
    @keydown="key"
    @blur="((shut = true), emit('blur'))"
  />
  <Teleport to="body">
    <ul
      v-if="list.length"
      class="complete"
      :class="{ up: place.up }"
      role="listbox"
      data-testid="completions"
      :style="{ left: place.left + 'px', top: place.top + 'px' }"
    >
      <li
        v-for="(s, i) in list"
        :key="s.word"
        role="option"
        :aria-selected="i === chosen"
        :class="{ on: i === chosen }"
        @mousedown.prevent="take(i)"
      >
        <b>{{ s.word }}</b><span>{{ s.line }}</span
        ><small v-if="s.example">{{ s.example }}</small>
      </li>
    </ul>
  </Teleport>
</template>

<style scoped>
.formula {
  width: 100%;
}
.complete {
  position: fixed;
  z-index: 3000;
  margin: 0;
  padding: 4px;
  list-style: none;
  background: var(--panel);
  border: 1px solid var(--line-2);
  border-radius: 8px;
  box-shadow: var(--shadow);
  min-width: 260px;
  max-width: 460px;
  font-size: 12.5px;
}
.complete.up {
  transform: translateY(-100%);
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 3px 8px;
  border-radius: 5px;
  cursor: pointer;
  white-space: nowrap;
}
li.on,
li:hover {
  background: var(--chip);
}
li span {
  color: var(--ink-2);
}
li small {
  margin-left: auto;
  color: var(--ink-3);
}
</style>
