<script setup lang="ts">
// Changes listed by what they are of: words and values, before and after.
import { computed } from 'vue'
import { aspectsOf, type Difference, grouped, SIGNS } from './words'

const props = defineProps<{ differences: Difference[] }>()
const groups = computed(() => grouped(props.differences))
</script>

<template>
  <section v-for="g in groups" :key="g.title" class="differences">
    <h4>{{ g.title }}</h4>
    <ul>
      <li v-for="d in g.rows" :key="`${d.id}${d.sign}`" :class="d.sign" :data-testid="`difference-${d.group}-${d.id}`">
        <span class="sign" :title="d.sign">{{ SIGNS[d.sign] }}</span>
        <span
          ><b>{{ d.name }}</b> <span v-for="text in aspectsOf(d)" :key="text" class="aspect num">{{ text }}</span></span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
h4 {
  margin: 12px 0 4px;
  font-size: 12px;
  color: var(--ink-3);
}
h4::first-letter {
  text-transform: uppercase;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 8px;
  padding: 2px 0;
}
.sign {
  width: 14px;
  flex: none;
  text-align: center;
  color: var(--ink-3);
  font-weight: 600;
}
.added .sign {
  color: var(--up);
}
.removed .sign {
  color: var(--bad);
}
.removed b {
  text-decoration: line-through;
}
b {
  font-weight: 600;
}
.aspect {
  display: block;
  color: var(--ink-2);
  overflow-wrap: anywhere;
}
</style>
