<script setup lang="ts">
// Functions, signs and units of formulas, each with an example that works.
import { computed, onMounted, ref } from 'vue'
import { useDocument } from '../document/store'
import { useParameters } from './store'

const doc = useDocument()
const store = useParameters()
const filter = ref('')
onMounted(() => void store.loadWords().catch(doc.refused))
const shown = computed(() =>
  store.words.filter((w) => !filter.value || `${w.word} ${w.line} ${w.example}`.toLowerCase().includes(filter.value.toLowerCase())),
)
const TITLES: Record<string, string> = { function: 'Functions', constant: 'Constants', sign: 'Signs', unit: 'Units' }
const groups = computed(() =>
  Object.keys(TITLES)
    .map((kind) => ({ title: TITLES[kind], list: shown.value.filter((w) => w.kind === kind) }))
    .filter((g) => g.list.length),
)
</script>

<template>
  <aside data-testid="formula-words" @keydown.stop>
    <input v-model="filter" class="field" placeholder="Find a function or unit" aria-label="Find a function or unit" />
    <section v-for="g in groups" :key="g.title">
      <h3>{{ g.title }}</h3>
      <p v-for="w in g.list" :key="w.word">
        <b>{{ w.word }}</b> <span>{{ w.line }}</span><small v-if="g.title !== 'Units'">{{ w.example }} → {{ w.gives }}</small>
      </p>
    </section>
  </aside>
</template>

<style scoped>
aside {
  border-left: 1px solid var(--line);
  padding-left: 12px;
  font-size: 12px;
}
.field {
  width: 100%;
  height: 24px;
}
h3 {
  font-size: 11.5px;
  color: var(--ink-2);
  margin: 6px 0 2px;
}
p {
  margin: 2px 0;
  display: grid;
  grid-template-columns: 78px 1fr;
  column-gap: 8px;
}
span {
  color: var(--ink-2);
}
small {
  grid-column: 2;
  color: var(--ink-3);
}
</style>
