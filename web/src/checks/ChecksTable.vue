<script setup lang="ts">
// Saved rules with what they found; adding one, with picks where it needs them.
import { computed, ref } from 'vue'
import { useRuns } from '../assembly/runs'
import { useAssembly } from '../assembly/store'
import { useDocument, useRegistries } from '../document/store'
import { raised } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { useChecks } from './store'

const doc = useDocument()
const checks = useChecks()
const registries = useRegistries()
const asm = useAssembly()
const runs = useRuns()
interface Making {
  kind: string
  name: string
  relation: string
  limit: string
  picks: number
  asks: string[]
  /** What else is chosen. */
  run: string
  coordinate: string
  side: string
  list: string
}
const making = ref<Making | null>(null)
const limit = ref<{ id: string; text: string } | null>(null)

const kinds = computed(() => (registries.found?.checks ?? []).filter((k) => k.documents.includes(doc.view?.kind ?? '')))
const rows = computed(() =>
  (doc.view?.document.checks ?? []).map((c) => ({
    c,
    kind: registries.found?.checks.find((k) => k.kind === c.kind),
    view: checks.found.find((v) => v.id === c.id),
  })),
)
const ICON: Record<string, string> = { holds: 'check', fails: 'cross', running: 'clock', trouble: 'alert' }
const WORD: Record<string, string> = { holds: 'holds', fails: 'fails', running: 'running', trouble: 'cannot tell' }
const SIGN = (relation: string | undefined): string => (relation === 'at_least' ? '≥' : '≤')

function begin(kind: (typeof kinds.value)[number]): void {
  making.value = {
    kind: kind.kind,
    name: kind.label,
    relation: kind.relation,
    limit: kind.limit,
    picks: kind.picks,
    asks: kind.asks,
    run: runs.run?.id ?? '',
    coordinate: '',
    side: 'up',
    list: registries.found?.lists[0]?.kind ?? '',
  }
  suit()
  checks.picking = kind.picks > 0
  checks.picked = []
}
/** Components a new check of mass is about: those chosen, all when none is. */
const weighed = computed(() => (making.value?.kind === 'mass' && doc.assembly ? asm.selected : []))
/** What can be asked about: the joints that a run drives, or all that move. */
const coordinates = computed(() => {
  const m = making.value
  const driven = new Set(runs.runs.find((r) => r.id === m?.run)?.drivers?.map((d) => d.joint))
  return m?.asks.includes('run') ? runs.drivable.filter((d) => driven.has(d.joint)) : runs.drivable
})
function suit(): void {
  const m = making.value
  if (!m?.asks.includes('coordinate')) return
  if (!coordinates.value.some((d) => d.key === m.coordinate)) m.coordinate = coordinates.value[0]?.key ?? ''
  const turns = coordinates.value.find((d) => d.key === m.coordinate)?.coordinate.unit !== 'mm'
  if (m.kind === 'reach') m.limit = turns ? '90 deg' : '50 mm'
  else if (m.kind === 'effort') m.limit = turns ? '1 N*m' : '100 N'
}
const lacks = computed(() => {
  const m = making.value
  if (!m) return null
  if (m.asks.includes('run') && !m.run) return 'Make a run first, under Runs'
  return m.asks.includes('coordinate') && !m.coordinate ? 'No joint here can be asked about' : null
})
function chosen(m: Making): Record<string, unknown> {
  const [joint, coordinate] = m.coordinate.split(' ')
  return {
    ...(m.asks.includes('run') ? { run: m.run } : {}),
    ...(m.asks.includes('coordinate') ? { joint, coordinate } : {}),
    ...(m.asks.includes('side') ? { side: m.side } : {}),
    ...(m.asks.includes('list') ? { list: m.list } : {}),
  }
}
async function make(): Promise<void> {
  const m = making.value
  if (!m || (m.picks && checks.picked.length < m.picks)) return
  if (lacks.value) return
  const own = m.picks ? { picks: checks.picked } : weighed.value.length ? { components: weighed.value } : {}
  const fields = { ...own, ...chosen(m) }
  if (await doc.edit([{ do: 'add_check', kind: m.kind, name: m.name, relation: m.relation, limit: m.limit, fields }])) stop()
}
function stop(): void {
  making.value = null
  checks.picking = false
  checks.picked = []
}
async function keepLimit(): Promise<void> {
  const l = limit.value
  limit.value = null
  if (l?.text.trim()) await doc.edit([{ do: 'edit_check', id: l.id, limit: l.text.trim() }])
}
</script>

<template>
  <table v-if="rows.length" class="grid">
    <thead>
      <tr>
        <th style="width: 110px">State</th>
        <th>Check</th>
        <th class="r">Found</th>
        <th>Limit</th>
        <th style="width: 34px" />
      </tr>
    </thead>
    <tbody>
      <tr v-for="{ c, view, kind } in rows" :key="c.id" :data-testid="`check-${c.id}`">
        <td :class="`is-${view?.state ?? 'running'}`" class="state">
          <Icon :name="ICON[view?.state ?? 'running']" :size="15" /> {{ WORD[view?.state ?? 'running'] }}
        </td>
        <td>
          {{ c.name }} <span class="muted">· {{ kind?.label }}</span
          ><span v-if="view?.trouble" class="bad"> {{ view.trouble.text }}</span>
        </td>
        <td class="r">{{ view?.shown ?? (view?.was ? `was ${view.was}` : '…') }}</td>
        <td @click="limit = { id: c.id, text: c.limit }">
          <input
            v-if="limit?.id === c.id"
            v-model="limit.text"
            class="field"
            autofocus
            @keydown.enter="keepLimit"
            @keydown.esc.stop="limit = null"
            @blur="keepLimit"
          />
          <template v-else>{{ SIGN(c.relation) }} {{ view?.limit ?? raised(c.limit) }}</template>
        </td>
        <td>
          <button class="icon-btn" :aria-label="`Delete ${c.name}`" title="Delete" @click="doc.edit([{ do: 'remove_check', id: c.id }])">
            <Icon name="bin" :size="14" />
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="!making" class="muted">
    No check yet. A check measures something after every change and is held to a limit; the head bar counts them.
  </p>
  <form v-if="making" class="make" @submit.prevent="make">
    <input v-model="making.name" class="field" aria-label="Name" />
    <span v-if="making.picks" class="pick" :class="{ ready: checks.picked.length === making.picks }"
      ><Icon name="hand" :size="15" /> {{ checks.picked.length }} of {{ making.picks }} picked in the picture</span
    >
    <span v-if="making.kind === 'mass' && doc.assembly" class="muted" data-testid="check-weighs">{{
      weighed.length ? `of ${weighed.length} chosen ${weighed.length === 1 ? 'component' : 'components'}` : 'of everything'
    }}</span>
    <select v-if="making.asks.includes('run')" v-model="making.run" class="field" aria-label="Run" data-testid="check-run" @change="suit">
      <option v-for="r in runs.runs" :key="r.id" :value="r.id">{{ r.name }}</option>
    </select>
    <select
      v-if="making.asks.includes('coordinate')"
      v-model="making.coordinate"
      class="field"
      aria-label="Joint"
      data-testid="check-joint"
      @change="suit"
    >
      <option v-for="d in coordinates" :key="d.key" :value="d.key">{{ d.name }}</option>
    </select>
    <select v-if="making.asks.includes('side')" v-model="making.side" class="field" aria-label="Which way">
      <option value="up">upwards</option>
      <option value="back">backwards</option>
    </select>
    <select v-if="making.asks.includes('list')" v-model="making.list" class="field" aria-label="List" data-testid="check-list">
      <option v-for="l in registries.found?.lists" :key="l.kind" :value="l.kind" :title="l.line">{{ l.label }}</option>
    </select>
    <span v-if="lacks" class="bad">{{ lacks }}</span>
    <select v-model="making.relation" class="field" aria-label="Relation">
      <option value="at_most">at most</option>
      <option value="at_least">at least</option>
    </select>
    <input v-model="making.limit" class="field limit" aria-label="Limit" data-testid="check-limit" />
    <button class="btn small main" data-testid="make-check" :disabled="making.picks > checks.picked.length || lacks !== null">Add</button>
    <button type="button" class="btn small" @click="stop">Cancel</button>
  </form>
  <div v-else class="add">
    <button v-for="k in kinds" :key="k.kind" class="btn small" :title="k.line" :data-testid="`add-check-${k.kind}`" @click="begin(k)">
      + {{ k.label }}
    </button>
  </div>
</template>

<style scoped>
.r {
  text-align: right !important;
}
.state {
  white-space: nowrap;
}
.state svg {
  vertical-align: -3px;
}
.is-holds {
  color: var(--up);
  font-weight: 600;
}
.is-fails,
.is-trouble {
  color: var(--bad);
  font-weight: 600;
}
.is-running {
  color: var(--ink-3);
}
.bad {
  display: block;
  color: var(--bad);
  font-size: 12px;
}
.make,
.add {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 0;
  flex-wrap: wrap;
}
.limit {
  width: 110px;
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
