<script setup lang="ts">
// What a table from a file would do, before it is taken.
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import Icon from '../ui/Icon.vue'

const props = defineProps<{ found: Schemas['IncomingView'] }>()
const emit = defineEmits<{ take: []; leave: [] }>()
const nothing = computed(() => !props.found.rows.length && !props.found.bad.length)
const some = (list: string[], most = 6): string =>
  list.slice(0, most).join(', ') + (list.length > most ? ` and ${list.length - most} more` : '')
</script>

<template>
  <section class="coming" data-testid="incoming">
    <p v-if="nothing">It says what the table says already: nothing changes.</p>
    <p v-if="found.adds.length">
      <b>{{ found.adds.length }} new:</b> {{ some(found.adds) }}
    </p>
    <p v-if="found.changes.length">
      <b>{{ found.changes.length }} {{ found.changes.length === 1 ? 'cell changes' : 'cells change' }}:</b>
      {{
        some(
          found.changes.map((c) => `${c.row}, ${c.column}: ${c.was} → ${c.now}`),
          4,
        )
      }}
    </p>
    <p v-if="found.passed.length" class="muted">Passed over, for no column is called so: {{ some(found.passed) }}</p>
    <p v-if="found.missing.length" class="muted">Not in the file, and left as they are: {{ some(found.missing) }}</p>
    <ul v-if="found.bad.length" class="bad">
      <li v-for="b in found.bad.slice(0, 12)" :key="b.cell + b.text">
        <Icon name="cross" :size="13" /> <b>{{ b.cell }}</b> {{ b.text }}
      </li>
      <li v-if="found.bad.length > 12">and {{ found.bad.length - 12 }} more</li>
    </ul>
    <footer>
      <button class="btn small" @click="emit('leave')">{{ nothing ? 'Good' : 'Leave it' }}</button>
      <button v-if="found.rows.length" class="btn small main" data-testid="take-rows" @click="emit('take')">
        {{ found.bad.length ? 'Take the good ones' : 'Take it' }}
      </button>
    </footer>
  </section>
</template>

<style scoped>
.coming {
  padding: 8px 12px;
  margin-bottom: 8px;
  border: 1px solid var(--line-2);
  border-radius: 7px;
  max-width: 860px;
}
p {
  margin: 2px 0;
}
ul {
  margin: 4px 0;
  padding: 0;
  list-style: none;
}
.bad {
  color: var(--bad);
}
footer {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
}
</style>
