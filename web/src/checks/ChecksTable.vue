<script setup lang="ts">
// Saved rules with what they found; adding one, with picks where it needs them.
import { computed, ref } from 'vue'
import { useDocument, useRegistries } from '../document/store'
import { raised } from '../ui/format'
import Icon from '../ui/Icon.vue'
import CheckCard from './CheckCard.vue'
import MakeCheck from './MakeCheck.vue'
import { useChecks } from './store'
import { foundOf, said, sign, tone } from './words'

const doc = useDocument()
const checks = useChecks()
const registries = useRegistries()
const making = ref<(typeof kinds.value)[number] | null>(null)
const limit = ref<{ id: string; text: string } | null>(null)
/** The check that is looked at in full. */
const opened = ref<string | null>(null)

const kinds = computed(() => (registries.found?.checks ?? []).filter((k) => k.documents.includes(doc.view?.kind ?? '')))
const rows = computed(() =>
  (doc.view?.document.checks ?? []).map((c) => ({
    c,
    kind: registries.found?.checks.find((k) => k.kind === c.kind),
    view: checks.found.find((v) => v.id === c.id),
  })),
)
function begin(kind: (typeof kinds.value)[number]): void {
  making.value = kind
  checks.picking = kind.picks > 0
  checks.picked = []
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
        <th style="width: 64px">
          <RouterLink
            v-if="doc.view"
            :to="`/p/${doc.view.project}/checks`"
            class="all"
            data-testid="all-checks"
            title="All checks of the project"
            >All</RouterLink
          >
        </th>
      </tr>
    </thead>
    <tbody>
      <template v-for="{ c, view, kind } in rows" :key="c.id">
        <tr :data-testid="`check-${c.id}`">
          <td :class="tone(view?.state, c.severity)" class="state">
            <Icon :name="said(view?.state).icon" :size="15" /> {{ said(view?.state).word }}
          </td>
          <td>
            <button
              class="name"
              :aria-expanded="opened === c.id"
              :title="c.note || 'What it found over time'"
              :data-testid="`open-check-${c.id}`"
              @click="opened = opened === c.id ? null : c.id"
            >
              {{ c.name }}
            </button>
            <span class="muted"> · {{ kind?.label }}{{ c.severity === 'should' ? ' · should hold' : '' }}</span
            ><span v-if="view?.trouble" class="bad"> {{ view.trouble.text }}</span>
          </td>
          <td class="r">{{ foundOf(view) }}</td>
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
            <template v-else>{{ sign(c.relation) }} {{ view?.limit ?? raised(c.limit) }}</template>
          </td>
          <td>
            <button class="icon-btn" :aria-label="`Delete ${c.name}`" title="Delete" @click="doc.edit([{ do: 'remove_check', id: c.id }])">
              <Icon name="bin" :size="14" />
            </button>
          </td>
        </tr>
        <tr v-if="opened === c.id">
          <td colspan="5"><CheckCard :check="c" /></td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-else-if="!making" class="muted">
    No check yet. A check measures something after every change and is held to a limit; the head bar counts them.
  </p>
  <MakeCheck v-if="making" :key="making.kind" :kind="making" @done="stop" />
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
.name {
  color: var(--ink);
  text-align: left;
}
.all {
  color: var(--accent);
  font-weight: 500;
  text-decoration: none;
}
.name:hover,
.all:hover {
  text-decoration: underline;
}
.bad {
  display: block;
  color: var(--bad);
  font-size: 12px;
}
.add {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 0;
  flex-wrap: wrap;
}
</style>
