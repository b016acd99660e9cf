<script setup lang="ts">
// Rules of a sheet taken from the library or from a body, and kept under a name of one's own.
import { computed, onMounted, ref, shallowRef } from 'vue'
import { call, type FieldView, type Schemas } from '../../api/client'
import { bare } from '../../ui/units'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, doc, value, id, set } = useField(props)
const rules = shallowRef<Schemas['SheetRulesView']>({ own: [], library: [] })
const naming = ref(false)
const name = ref('')
async function load(): Promise<void> {
  if (doc.view) rules.value = await call('get', '/api/projects/{id}/sheet_rules', { path: { id: doc.view.project } })
}
onMounted(() => void load().catch(doc.refused))
const bodies = computed(() => (doc.build?.bodies ?? []).map((b) => ({ id: b.id, name: b.name })))
async function choose(event: Event): Promise<void> {
  const field = event.target as HTMLSelectElement
  const [from, ...rest] = field.value.split(':')
  const what = rest.join(':')
  if (from === 'body') {
    field.value = value.value ? `rule:${String(value.value)}` : ''
    const found = await call('post', '/api/documents/{id}/sheet_sizes', { path: { id: doc.view!.id }, body: { body: what } })
    edited.set('thickness', `${bare(found.thickness)} mm`)
    if (found.radius !== null) edited.set('radius', `${bare(found.radius)} mm`)
    set('')
    return
  }
  const rule = [...rules.value.own, ...rules.value.library].find((r) => r.name === what)
  if (rule) Object.entries(rule.sets).forEach(([key, v]) => edited.set(key, v))
  set(rule ? what : '')
}
async function keep(): Promise<void> {
  const sets = Object.fromEntries((props.field.sets ?? []).map((f) => [f, String(edited.fields[f] ?? '')]).filter(([, v]) => v))
  await call('post', '/api/projects/{id}/sheet_rules', { path: { id: doc.view!.project }, body: { name: name.value.trim(), sets } })
  set(name.value.trim())
  naming.value = false
  await load()
}
async function forget(): Promise<void> {
  await call('post', '/api/projects/{id}/sheet_rules', { path: { id: doc.view!.project }, body: { name: String(value.value), sets: {} } })
  set('')
  await load()
}
const own = computed(() => rules.value.own.some((r) => r.name === value.value))
const known = computed(() => own.value || rules.value.library.some((r) => r.name === value.value))
</script>

<template>
  <div>
    <FieldRow :field="field">
      <select
        :id="id"
        class="field"
        :value="known ? `rule:${String(value)}` : ''"
        :data-testid="`field-${field.name}`"
        @change="(e) => void choose(e).catch(doc.refused)"
      >
        <option value="">as set below</option>
        <optgroup v-if="rules.own.length" label="Kept in this project">
          <option v-for="r in rules.own" :key="r.name" :value="`rule:${r.name}`">{{ r.name }}</option>
        </optgroup>
        <optgroup label="Library">
          <option v-for="r in rules.library" :key="r.name" :value="`rule:${r.name}`">{{ r.name }}</option>
        </optgroup>
        <optgroup v-if="bodies.length" label="Sizes of a body">
          <option v-for="b in bodies" :key="b.id" :value="`body:${b.id}`">{{ b.name }}</option>
        </optgroup>
      </select>
    </FieldRow>
    <p class="own">
      <template v-if="naming">
        <input
          v-model="name"
          class="field"
          maxlength="80"
          placeholder="name of these rules"
          data-testid="rule-name"
          @keydown.stop
          @keydown.enter="keep().catch(doc.refused)"
        />
        <button class="btn small main" :disabled="!name.trim()" data-testid="rule-keep" @click="keep().catch(doc.refused)">Keep</button>
      </template>
      <template v-else>
        <button class="link" data-testid="rule-name-it" @click="naming = true">Keep what is set below</button>
        <button v-if="own" class="link" @click="forget().catch(doc.refused)">Forget this one</button>
      </template>
    </p>
  </div>
</template>

<style scoped>
.own {
  display: flex;
  justify-content: flex-end;
  gap: 10px;
  margin: 2px 0 0;
}
.own .field {
  flex: 1;
  min-width: 0;
}
.link {
  border: none;
  background: none;
  padding: 0;
  color: var(--accent);
  font-size: 12px;
  cursor: pointer;
}
</style>
