<script setup lang="ts">
import { NModal } from 'naive-ui'
import { computed } from 'vue'
import { useRegistries } from '../document/store'
import { keyName } from '../sketch/tool'

defineProps<{ show: boolean }>()
defineEmits<{ 'update:show': [show: boolean] }>()

const GROUPS: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['/', 'quick entry: a tool with its number, or any name'],
      ['Ctrl Z · Ctrl Y', 'undo · redo'],
      ['Enter · Esc', 'keep · discard'],
      ['[ · ]', 'marker back · on'],
      ['?', 'this sheet'],
    ],
  ],
  [
    'View',
    [
      ['1 … 7', 'front, back, left, right, top, under, iso'],
      ['F', 'fit'],
      ['X', 'section'],
      ['T', 'see-through'],
      ['P', 'perspective or parallel'],
      ['L', 'look at the picked face'],
      ['Backspace', 'previous view'],
      ['B', 'second pane'],
      ['M', 'measure'],
      ['right drag', 'turn'],
      ['middle or Shift right drag', 'shift'],
      ['wheel', 'zoom at the pointer'],
    ],
  ],
  [
    'Picking',
    [
      ['click', 'pick'],
      ['Shift click', 'add or take off'],
      ['drag on empty space', 'pick box'],
    ],
  ],
  [
    'Sketch',
    [
      ['D', 'size'],
      ['G', 'construction'],
      ['I', 'link from elsewhere'],
      ['M', 'measure'],
      ['digits, Tab', 'type sizes while drawing'],
      ['double click', 'pick a whole chain'],
      ['Ctrl C · Ctrl V', 'copy, put in (also in another sketch)'],
      ['Ctrl', 'hold hints off'],
      ['Del', 'delete what is selected'],
    ],
  ],
]
const registries = useRegistries()
/** Tools of the sketch, as they are registered. */
const tools = computed(() => (registries.found?.tools ?? []).filter((t) => t.key).map((t) => [keyName(t.key), t.label]))
</script>

<template>
  <NModal :show="show" preset="card" title="Keys" style="width: 760px" @update:show="(v: boolean) => $emit('update:show', v)">
    <div class="groups">
      <section v-for="[title, rows] in GROUPS" :key="title">
        <h3>{{ title }}</h3>
        <p v-for="[keys, what] in rows" :key="keys">
          <kbd>{{ keys }}</kbd> <span>{{ what }}</span>
        </p>
      </section>
    </div>
    <section v-if="tools.length" class="tools">
      <h3>Sketch tools</h3>
      <div>
        <p v-for="[keys, what] in tools" :key="keys">
          <kbd>{{ keys }}</kbd> <span>{{ what }}</span>
        </p>
      </div>
    </section>
  </NModal>
</template>

<style scoped>
.groups {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px 28px;
}
h3 {
  font-size: 13px;
  margin-bottom: 4px;
}
.tools {
  margin-top: 12px;
}
.tools div {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 0 22px;
}
p {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  margin: 3px 0;
}
span {
  color: var(--ink-2);
  text-align: right;
}
</style>
