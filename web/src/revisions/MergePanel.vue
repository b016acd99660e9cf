<script setup lang="ts">
// A branch taken in: what it brings, what both changed, and what would not build, before anything is kept.
import { computed, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import DifferenceList from './DifferenceList.vue'

const props = defineProps<{ into: Schemas['DocumentRefView']; branch: Schemas['DocumentRefView'] }>()
const emit = defineEmits<{ done: [] }>()
const doc = useDocument()
const router = useRouter()
const found = shallowRef<Schemas['MergeView'] | null>(null)
const chosen = ref<Record<string, 'ours' | 'theirs'>>({})
const busy = ref(false)

async function ask(): Promise<Schemas['MergeAsk']> {
  const base =
    props.into.id === doc.view?.id
      ? doc.view.revision
      : (await call('get', '/api/documents/{id}', { path: { id: props.into.id } })).revision
  return { base, branch: props.branch.id, chosen: chosen.value }
}
async function look(): Promise<void> {
  busy.value = true
  try {
    found.value = await call('post', '/api/documents/{id}/merge-look', { path: { id: props.into.id }, body: await ask() })
  } catch (error) {
    doc.refused(error)
    emit('done')
  } finally {
    busy.value = false
  }
}
watch(chosen, look, { deep: true, immediate: true })
const open = computed(() => found.value?.conflicts.filter((c) => !chosen.value[c.key]).length ?? 0)
async function take(): Promise<void> {
  busy.value = true
  try {
    const made = await call('post', '/api/documents/{id}/merge', { path: { id: props.into.id }, body: await ask() })
    emit('done')
    if (made.id === doc.view?.id) await doc.taken(made)
    else await router.push(`/d/${made.id}?drawer=revisions`)
  } catch (error) {
    doc.refused(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="merge" data-testid="merge">
    <header>
      <b>Take {{ branch.name }} into {{ into.name }}</b>
      <span v-if="busy" class="muted">building …</span>
      <span class="grow" />
      <button class="btn small main" data-testid="take-in" :disabled="busy || open > 0 || !found?.brings.length" @click="take">
        {{ open ? `${open} to choose` : 'Take in' }}
      </button>
      <button class="btn small" @click="emit('done')">Cancel</button>
    </header>
    <p v-if="found && !found.brings.length && !found.conflicts.length" class="muted">It brings nothing that is not there already.</p>
    <table v-if="found?.conflicts.length" class="grid">
      <thead>
        <tr>
          <th>Both changed</th>
          <th>It was</th>
          <th>In {{ into.name }}</th>
          <th>In {{ branch.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in found.conflicts" :key="c.key" :data-testid="`conflict-${c.key}`">
          <td>
            {{ c.name }} <span class="muted">{{ c.label }}</span>
          </td>
          <td class="muted num">{{ c.base || 'nothing' }}</td>
          <td v-for="w in ['ours', 'theirs'] as const" :key="w">
            <label class="num"
              ><input v-model="chosen[c.key]" type="radio" :name="c.key" :value="w" :data-testid="`keep-${w}`" />
              {{ c[w] || 'nothing' }}</label
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-for="f in found?.faults" :key="f.name" class="bad"><Icon name="cross" :size="14" /> {{ f.name }}: {{ f.why }}</p>
    <DifferenceList v-if="found?.brings.length" :differences="found.brings" />
  </section>
</template>

<style scoped>
.merge {
  padding: 8px 10px;
  margin: 4px 0 10px;
  border: 1px solid var(--line-2);
  border-radius: 7px;
  background: var(--panel-2);
  max-width: 900px;
}
header {
  display: flex;
  align-items: center;
  gap: 10px;
}
.grow {
  flex: 1;
}
.bad {
  color: var(--bad);
  margin: 6px 0 0;
}
.bad svg {
  vertical-align: -2px;
}
</style>
