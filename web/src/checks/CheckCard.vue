<script setup lang="ts">
// One check in full: its words, what it found over time, in other members, and which change broke it.
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import CheckChart from './CheckChart.vue'
import { useChecks } from './store'
import { said } from './words'

const props = defineProps<{ check: Schemas['Check'] }>()
const doc = useDocument()
const checks = useChecks()
const history = shallowRef<Schemas['CheckHistoryView'] | null>(null)
const finding = ref(false)
const view = computed(() => checks.found.find((c) => c.id === props.check.id))

async function load(): Promise<void> {
  const id = doc.view?.id
  if (!id) return
  try {
    history.value = await call('get', '/api/documents/{id}/checks/{check}', { path: { id, check: props.check.id } })
  } catch (error) {
    doc.refused(error)
  }
}
onMounted(load)
watch(() => [view.value?.state, view.value?.shown], load)
const mine = computed(() => history.value?.rows.filter((r) => r.mine) ?? [])
/** The newest of each other member. */
const others = computed(() => {
  const newest = new Map(history.value?.rows.filter((r) => !r.mine).map((r) => [r.member, r]))
  return [...newest.values()]
})
const blame = computed(() => history.value?.blame)
async function find(): Promise<void> {
  const id = doc.view?.id
  if (!id || !history.value) return
  finding.value = true
  try {
    const found = await call('post', '/api/documents/{id}/checks/{check}/blame', { path: { id, check: props.check.id } })
    history.value = { ...history.value, blame: found }
  } catch (error) {
    doc.refused(error)
  } finally {
    finding.value = false
  }
}
const edit = (change: Record<string, unknown>): Promise<boolean> => doc.edit([{ do: 'edit_check', id: props.check.id, ...change }])
const text = (event: Event): string => (event.target as HTMLInputElement).value.trim()
const when = (seconds: number): string => new Date(seconds * 1000).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })
const where = (m: Schemas['MadeView']): string => (m.document === doc.view?.id ? '' : `${m.name}, `)
</script>

<template>
  <div class="card" data-testid="check-card">
    <div class="words">
      <label>Name <input class="field" :value="check.name" @keydown.stop @change="text($event) && edit({ name: text($event) })" /></label>
      <label
        >Matters
        <select class="field" :value="check.severity ?? 'must'" data-testid="card-severity" @change="edit({ severity: text($event) })">
          <option value="must">must hold</option>
          <option value="should">should hold</option>
        </select></label
      >
      <label
        >Why
        <input
          class="field"
          :value="check.note"
          placeholder="a note for who comes after"
          maxlength="500"
          data-testid="card-note"
          @keydown.stop
          @change="edit({ note: text($event) })"
      /></label>
    </div>
    <div class="past">
      <CheckChart v-if="mine.length" :rows="mine" :relation="check.relation ?? 'at_most'" />
      <p v-if="blame && view?.state === 'fails'" class="blame" data-testid="blame">
        <template v-if="blame.broke">
          <Icon name="alert" :size="14" /> Broke at {{ where(blame.broke) }}revision {{ blame.broke.revision }}:
          <b>{{ blame.broke.label }}</b>
          <span class="muted when">{{ when(blame.broke.created) }}</span>
        </template>
        <template v-else-if="blame.between.length">
          Broke at one of {{ blame.between.length }} changes, from “{{ blame.between[0].label }}” to “{{ blame.between.at(-1)?.label }}”.
          {{ blame.why }}
          <button class="btn small" data-testid="find-blame" :disabled="finding" @click="find">
            {{ finding ? 'Building them …' : 'Find which' }}
          </button>
        </template>
        <span v-else class="muted">{{ blame.why }}</span>
      </p>
    </div>
    <ul v-if="others.length" class="others">
      <li v-for="r in others" :key="r.member" :class="`is-${r.state}`">
        <Icon :name="said(r.state).icon" :size="13" /> {{ r.member }} <span class="muted">{{ r.shown }} · r {{ r.revision }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.card {
  display: flex;
  gap: 22px;
  flex-wrap: wrap;
  padding: 8px 4px 10px;
}
.words {
  display: grid;
  gap: 6px;
  align-content: start;
}
.words label {
  display: grid;
  grid-template-columns: 62px 210px;
  align-items: center;
  color: var(--ink-2);
}
.blame {
  margin: 4px 0 0;
  max-width: 420px;
}
.blame svg {
  vertical-align: -2px;
  color: var(--bad);
}
.when {
  margin-left: 8px;
}
.others {
  margin: 0;
  padding: 0;
  list-style: none;
  columns: 2;
  column-gap: 24px;
}
.is-holds svg {
  color: var(--up);
}
.is-fails svg {
  color: var(--bad);
}
</style>
