<script setup lang="ts">
// Saved rules with what they found; adding one, with picks where it needs them.
import { computed, ref } from 'vue'
import { useAssembly } from '../assembly/store'
import { useDocument, useRegistries } from '../document/store'
import { raised } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { useChecks } from './store'

const doc = useDocument()
const checks = useChecks()
const registries = useRegistries()
const asm = useAssembly()
const making = ref<{ kind: string; name: string; relation: string; limit: string; picks: number } | null>(null)
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
  making.value = { kind: kind.kind, name: kind.label, relation: kind.relation, limit: kind.limit, picks: kind.picks }
  checks.picking = kind.picks > 0
  checks.picked = []
}
/** Components a new check of mass is about: those chosen, all when none is. */
const weighed = computed(() => (making.value?.kind === 'mass' && doc.assembly ? asm.selected : []))
async function make(): Promise<void> {
  const m = making.value
  if (!m || (m.picks && checks.picked.length < m.picks)) return
  const fields = m.picks ? { picks: checks.picked } : weighed.value.length ? { components: weighed.value } : {}
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
    <select v-model="making.relation" class="field" aria-label="Relation">
      <option value="at_most">at most</option>
      <option value="at_least">at least</option>
    </select>
    <input v-model="making.limit" class="field limit" aria-label="Limit" data-testid="check-limit" />
    <button class="btn small main" data-testid="make-check" :disabled="making.picks > checks.picked.length">Add</button>
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
