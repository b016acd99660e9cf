<script setup lang="ts">
// What lists say of this document besides its name: a part number, a description, one's own.
import { computed, ref } from 'vue'
import { useDocument } from '../document/store'
import DriveMark from '../members/DriveMark.vue'
import Icon from '../ui/Icon.vue'

const doc = useDocument()
const rows = computed(() => doc.view?.document.properties ?? [])
const KINDS: [string, string][] = [
  ['text', 'text'],
  ['number', 'number'],
  ['yes_no', 'yes or no'],
]
/** What most documents say, offered until they do. */
const usual = computed(() => ['Part number', 'Description', 'Supplier'].filter((n) => !rows.value.some((p) => p.name === n)))
const name = ref('')
const trouble = ref('')

async function set(of: string, more: { value?: string; kind?: string }): Promise<void> {
  const known = rows.value.find((p) => p.name === of)
  const wish = { do: 'set_property', name: of, value: more.value ?? known?.value ?? '', ...(more.kind ? { kind: more.kind } : {}) }
  trouble.value = (await doc.edit([wish])) ? '' : (doc.failure?.text ?? '')
}
async function add(of = name.value.trim()): Promise<void> {
  if (!of || rows.value.some((p) => p.name === of)) return
  name.value = ''
  await set(of, { value: '' })
}
const text = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <p v-if="!rows.length" class="muted">
    Nothing is said of this document yet. Properties are columns in lists of parts: a part number, a description, your own.
  </p>
  <table v-else class="grid" data-testid="properties">
    <thead>
      <tr>
        <th>Property</th>
        <th>Value</th>
        <th>Kind</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="p in rows" :key="p.name">
        <td>
          <b>{{ p.name }}</b> <DriveMark drives="property" :of="{ name: p.name }" :what="p.name" />
        </td>
        <td>
          <select
            v-if="p.kind === 'yes_no'"
            class="field"
            :value="p.value"
            :aria-label="p.name"
            :data-testid="`property-${p.name}`"
            @change="set(p.name, { value: text($event) })"
          >
            <option value="">not said</option>
            <option value="yes">yes</option>
            <option value="no">no</option>
          </select>
          <input
            v-else
            class="field value"
            :value="p.value"
            :aria-label="p.name"
            maxlength="500"
            spellcheck="false"
            :data-testid="`property-${p.name}`"
            @change="set(p.name, { value: text($event) })"
            @keydown.stop
          />
        </td>
        <td>
          <select class="field" :value="p.kind" :aria-label="`Kind of ${p.name}`" @change="set(p.name, { kind: text($event) })">
            <option v-for="[kind, word] in KINDS" :key="kind" :value="kind">{{ word }}</option>
          </select>
        </td>
        <td class="end">
          <button
            class="icon-btn"
            :title="`Remove ${p.name}`"
            :aria-label="`Remove ${p.name}`"
            @click="doc.edit([{ do: 'remove_property', name: p.name }])"
          >
            <Icon name="close" :size="14" />
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="trouble" class="trouble">{{ trouble }}</p>
  <form class="add" @submit.prevent="add()">
    <input
      v-model="name"
      class="field"
      placeholder="another property"
      aria-label="Name of another property"
      maxlength="40"
      data-testid="property-name"
      @keydown.stop
    />
    <button class="btn small" :disabled="!name.trim()">Add</button>
    <button v-for="n in usual" :key="n" type="button" class="chip" :data-testid="`usual-${n}`" @click="add(n)">+ {{ n }}</button>
  </form>
</template>

<style scoped>
.value {
  width: min(420px, 100%);
}
.end {
  width: 34px;
}
.add {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 8px 4px;
}
.add .field {
  width: 190px;
}
</style>
