<script setup lang="ts">
// A check being made: what it measures, where, and what it is held to.
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { useRuns } from '../assembly/runs'
import { useAssembly } from '../assembly/store'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import { type Choosing, useAsks } from './asks'
import { useChecks } from './store'

const props = defineProps<{ kind: Schemas['CheckKindView'] }>()
const emit = defineEmits<{ done: [] }>()
const doc = useDocument()
const checks = useChecks()
const asm = useAssembly()
const runs = useRuns()
const asks = useAsks()

const name = ref(props.kind.label)
const relation = ref(props.kind.relation)
const limit = ref(props.kind.limit)
const severity = ref('must')
const note = ref('')
const making = ref<Choosing>({ kind: props.kind.kind, asks: props.kind.asks, chosen: { run: runs.run?.id ?? '' } })
/** Keeps what is chosen among what there is to choose. */
watch(
  () => props.kind.asks.map((a) => asks[a]?.offers(making.value).map((o) => o.value)),
  (offered) => {
    props.kind.asks.forEach((a, n) => {
      const chosen = making.value.chosen
      if (!asks[a]?.typed && !offered[n]?.includes(chosen[a])) chosen[a] = offered[n]?.[0] ?? ''
    })
  },
  { immediate: true },
)
watch(() => making.value.chosen.coordinate, suit, { immediate: true })
/** A limit of the kind that the joint moves in. */
function suit(): void {
  const chosen = runs.drivable.find((d) => d.key === making.value.chosen.coordinate)
  if (!chosen) return
  const turns = chosen.coordinate.unit !== 'mm'
  if (props.kind.kind === 'reach') limit.value = turns ? '90 deg' : '50 mm'
  else if (props.kind.kind === 'effort') limit.value = turns ? '1 N*m' : '100 N'
}
watch(
  () => making.value.chosen.parameter,
  (parameter) => {
    const is = doc.view?.document.parameters?.find((p) => p.name === parameter)
    if (is) limit.value = doc.build?.parameters[is.name]?.shown ?? is.formula
  },
  { immediate: true },
)

/** Components a new check of mass is about: those chosen, all when none is. */
const weighed = computed(() => (props.kind.kind === 'mass' && doc.assembly ? asm.selected : []))
const lacks = computed(() => {
  const without = props.kind.asks.find((a) => asks[a]?.none && !making.value.chosen[a])
  return without ? asks[without].none : null
})
const few = computed(() => props.kind.picks > checks.picked.length)

async function make(): Promise<void> {
  if (few.value || lacks.value) return
  const picked = props.kind.picks ? { picks: checks.picked } : weighed.value.length ? { components: weighed.value } : {}
  const chosen = props.kind.asks.map((a) => asks[a].fields(making.value.chosen[a] ?? ''))
  const command = {
    do: 'add_check',
    kind: props.kind.kind,
    name: name.value,
    relation: relation.value,
    limit: limit.value,
    severity: severity.value,
    note: note.value.trim(),
    fields: Object.assign({}, picked, ...chosen) as Record<string, unknown>,
  }
  if (await doc.edit([command])) emit('done')
}
</script>

<template>
  <form class="make" @submit.prevent="make" @keydown.esc.stop="emit('done')">
    <input v-model="name" class="field" aria-label="Name" />
    <span v-if="kind.picks" class="pick" :class="{ ready: !few }"
      ><Icon name="hand" :size="15" /> {{ checks.picked.length }} of {{ kind.picks }} picked in the picture</span
    >
    <span v-if="kind.kind === 'mass' && doc.assembly" class="muted" data-testid="check-weighs">{{
      weighed.length ? `of ${weighed.length} chosen ${weighed.length === 1 ? 'component' : 'components'}` : 'of everything'
    }}</span>
    <template v-for="a in kind.asks" :key="a">
      <input
        v-if="asks[a]?.typed"
        v-model="making.chosen[a]"
        class="field limit"
        :aria-label="asks[a].label"
        :placeholder="asks[a].typed"
        :data-testid="`check-${a}`"
      />
      <select
        v-else-if="asks[a]?.offers(making).length"
        v-model="making.chosen[a]"
        class="field"
        :aria-label="asks[a].label"
        :data-testid="`check-${a === 'coordinate' ? 'joint' : a}`"
      >
        <option v-for="o in asks[a].offers(making)" :key="o.value" :value="o.value">{{ o.label }}</option>
      </select>
    </template>
    <span v-if="lacks" class="bad">{{ lacks }}</span>
    <select v-model="relation" class="field" aria-label="Relation">
      <option value="at_most">at most</option>
      <option value="at_least">at least</option>
    </select>
    <input v-model="limit" class="field limit" aria-label="Limit" data-testid="check-limit" />
    <select v-model="severity" class="field" aria-label="How much it matters" data-testid="check-severity">
      <option value="must">must hold</option>
      <option value="should">should hold</option>
    </select>
    <input v-model="note" class="field note" aria-label="Note" placeholder="Why" maxlength="500" />
    <button class="btn small main" data-testid="make-check" :disabled="few || !!lacks">Add</button>
    <button type="button" class="btn small" @click="emit('done')">Cancel</button>
  </form>
</template>

<style scoped>
.make {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 0;
  flex-wrap: wrap;
}
.limit {
  width: 110px;
}
.note {
  width: 160px;
}
.bad {
  color: var(--bad);
}
.pick {
  color: var(--pick);
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
.pick.ready {
  font-weight: 600;
}
</style>
